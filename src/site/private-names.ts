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
