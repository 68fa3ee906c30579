// Names that are rarely meant for visitors, with an example of each and what it is.
const SAMPLES: readonly (readonly [name: string, what: string])[] = [
  ["server.key", "keys"],
  ["id_rsa", "keys"],
  ["site.pem", "keys"],
  ["store.p12", "keys"],
  ["page.html.bak", "backups"],
  ["page.old", "backups"],
  ["page.html~", "backups"],
  ["backup.zip", "backups"],
  ["dump.sql", "databases"],
  ["data.sqlite", "databases"],
  ["data.sqlite3", "databases"],
  ["data.db", "databases"],
  ["settings.env", "environment files"],
  ["secrets.json", "secrets"],
  ["passwords.txt", "secrets"],
  ["credentials.json", "secrets"],
];

/** What a pattern seems to be meant to hide; undefined for one that is about something else, or about everything. */
export function describePrivateNames(matches: (path: string) => boolean): string | undefined {
  if (matches("ordinary-name.html") && matches("picture.png")) return undefined;
  return SAMPLES.find(([name]) => matches(name))?.[1];
}

const ENDINGS: readonly (readonly [pattern: RegExp, what: string])[] = [
  [/\.(?:key|pem|p12|pfx|ppk|jks|keystore)$/, "keys"],
  [/^id_(?:rsa|dsa|ecdsa|ed25519)$/, "keys"],
  [/\.(?:sqlite3?|db|mdb)$|^dump.*\.sql$/, "databases"],
  [/(?:\.(?:bak|old|orig|swp|swo)|~)$/, "backups"],
  [/^(?:backup|dump)\b.*\.(?:zip|gz|tgz|tar|sql|7z)$/, "backups"],
  [/(?:^|\.)env$|\.env\.\w+$/, "environment files"],
  [/^(?:secrets?|credentials?|passwords?)\.(?:json|ya?ml|txt|csv|toml|ini)$/, "secrets"],
];

/** What a file with this name seems to be, when it is rarely meant for visitors. */
export function describePrivateName(path: string): string | undefined {
  const name = path.slice(path.lastIndexOf("/") + 1).toLowerCase();
  return ENDINGS.find(([pattern]) => pattern.test(name))?.[1];
}
