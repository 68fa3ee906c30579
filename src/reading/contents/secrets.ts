/** What a file is that only a few people should have, by what is in it. The codes are those of exposures. */
export interface Telling {
  readonly code: string;
  /** What it is, as part of a sentence. */
  readonly what: string;
}

/** A pattern in a text, and what it tells. Each matches in linear time. */
interface Row extends Telling {
  readonly pattern: RegExp;
}

const row = (code: string, what: string, pattern: RegExp): Row => ({ code, what, pattern });
const credentials = (what: string, pattern: RegExp): Row => row("credentials", what, pattern);

/** A key in its text form (RFC 7468, RFC 9580 §6.2) with some of its letters: an article shows the lines around them. */
const KEY =
  /-----BEGIN (?:[A-Z0-9]{1,16} ){0,4}PRIVATE KEY(?: BLOCK)?-----(?:\s|\\[nr]|["',+]){0,20}(?:[A-Za-z0-9+/=]{4}|Proc-Type:|Version:|Comment:|Hash:)/;

const TEXTS: readonly Row[] = [
  row("private-key", "a private key", KEY),
  row(
    "private-key",
    "a private key",
    /^\s{0,100}-----BEGIN (?:[A-Z0-9]{1,16} ){0,4}PRIVATE KEY(?: BLOCK)?-----/,
  ),
  row("private-key", "a private key", /^PuTTY-User-Key-File-\d/),
  row("private-key", "a private key", /\bAGE-SECRET-KEY-1[0-9A-Z]{20}/),
  row(
    "private-key",
    "a private key",
    /^[ \t]{0,20}PrivateKey[ \t]{0,4}=[ \t]{0,4}[A-Za-z0-9+/]{40,44}=?[ \t\r]{0,4}$/m,
  ),
  credentials("an access key of a cloud", /\baws_secret_access_key["']?\s{0,4}[=:]\s{0,4}["']?[\w/+=]{16}/i),
  credentials("an access key of a cloud", /\b(?:AKIA|ASIA)[0-9A-Z]{16}\b/),
  credentials("an access key of a cloud", /"secretaccesskey"\s{0,4}:\s{0,4}"[^"\n]{8}/i),
  credentials("the key of a cloud account", /"type"\s{0,4}:\s{0,4}"service_account"/),
  credentials("an access key of a cloud", /\b(?:AccountKey|SharedAccessKey)=[\w+/=]{20}/),
  credentials("the key of a cloud account", /"clientsecret"\s{0,4}:\s{0,4}"[^"\n]{8}/i),
  credentials(
    "a token",
    /\b(?:gh[pousr]_[A-Za-z0-9]{20}|github_pat_\w{20}|glpat-[\w-]{16}|npm_[A-Za-z0-9]{30})/,
  ),
  credentials(
    "a token",
    /\b(?:xox[abprs]-[\w-]{10}|sk_live_\w{10}|rk_live_\w{10}|SG\.[\w-]{16,40}\.[\w-]{16})/,
  ),
  credentials(
    "a token",
    /^\s{0,8}(?:\/\/[\w.:/-]{1,200}:)?_(?:authToken|auth|password)\s{0,4}=\s{0,4}\S{6}/m,
  ),
  credentials(
    "a list of passwords for other hosts",
    /^(?:#[^\n]*\n|\s){0,20}machine\s{1,8}\S{1,200}\s{1,8}login\s{1,8}\S{1,200}\s{1,8}password\s{1,8}\S/,
  ),
  credentials(
    "a list of passwords for other hosts",
    /^https?:\/\/[^\s:@/]{1,200}:[^\s@/]{1,200}@[\w.-]+\/?\s*(?:\n|$)/,
  ),
  credentials(
    "a list of passwords for other hosts",
    /"auths"\s{0,4}:\s{0,4}\{[\s\S]{0,400}?"auth"\s{0,4}:\s{0,4}"/,
  ),
  credentials("the way into a cluster", /\bclient-key-data["']?\s{0,4}:\s{0,4}["']?[\w+/=]{4}/),
  credentials(
    "the way into a cluster",
    /^kind:\s{0,4}Config[ \t\r]{0,4}$[\s\S]{0,2000}?^\s{1,12}(?:token|password):\s{0,4}\S/m,
  ),
  credentials(
    "a record of machines, with their passwords",
    /"terraform_version"\s{0,4}:[\s\S]{0,2000}"(?:serial|lineage|resources|modules)"\s{0,4}:/,
  ),
  credentials(
    "a list of password digests",
    /^[\w.@-]{1,64}:(?:\$(?:apr1|2[aby]|[156y])\$|\{SHA\})[^\s:]{8}/m,
  ),
  credentials("a file of somebody's cookies", /^# (?:Netscape )?HTTP Cookie File/),
  row(
    "configuration",
    "a list of who may log in",
    /^(?:[\w",=.@*-]{1,200} )?(?:ssh-(?:rsa|ed25519|dss)|ecdsa-sha2-\w{1,20}|sk-ssh-\w{1,20}(?:@openssh\.com)?) AAAA[\w+/=]{16}[^\n]*\n?/,
  ),
  row(
    "database-dump",
    "an export of a database",
    /^(?:--[^\n]{0,200}\n\s{0,8}){0,20}-- [^\n]{0,200}\b(?:database )?dump\b/i,
  ),
  row(
    "database-dump",
    "an export of a database",
    /^(?:(?:--|\/\*|SET|BEGIN|USE|DROP|PRAGMA)[^\n]{0,400}\n|\s){0,40}(?:CREATE TABLE|INSERT INTO|COPY) [`"\w.]{1,100}[\s\S]{0,20000}(?:\bVALUES\b|\bPRIMARY KEY\b|FROM stdin)/i,
  ),
  row(
    "mailbox",
    "a mailbox",
    /^From \S{1,200} (?:Mon|Tue|Wed|Thu|Fri|Sat|Sun) [A-Z][a-z]{2} [ \d]\d \d\d:\d\d/,
  ),
  row(
    "log-file",
    "a log of requests",
    /^(?:\S{1,100} ){3}\[\d\d\/[A-Z][a-z]{2}\/\d{4}:[\d:]{8} [+-]\d{4}\] "/,
  ),
  row(
    "log-file",
    "a log of a program",
    /^\[?\d{4}[-/]\d\d[-/]\d\d[T ]\d\d:\d\d:\d\d[^\n]{0,60}?\b(?:ERROR|WARN(?:ING)?|INFO|DEBUG|FATAL|TRACE|CRIT(?:ICAL)?|NOTICE)\b/i,
  ),
  row(
    "log-file",
    "a log of a program",
    /^\[(?:\d\d-[A-Z][a-z]{2}-\d{4}|[A-Z][a-z]{2} [A-Z][a-z]{2} [ \d]\d) [\d:.]{8,15}[^\]\n]{0,40}\] /,
  ),
  row(
    "log-file",
    "a log of a system",
    /^[A-Z][a-z]{2} [ \d]\d \d\d:\d\d:\d\d \S{1,80} [\w./-]{1,40}(?:\[\d+\])?: /,
  ),
  row("log-file", "a log of a program", /^\{"(?:level|time|timestamp|ts|msg)":[^\n]{1,4000}\}\r?\n\{"/),
  row(
    "log-file",
    "the trace of an error",
    /^(?:Traceback \(most recent call last\):$|PHP (?:Fatal|Parse|Warning)[^\n]{0,40}: )/m,
  ),
  row(
    "source",
    "a patch of a program",
    /^(?:diff --git a\/|Index: \S+\n=+|--- (?:a\/)?\S{1,200}[^\n]{0,80}\n\+\+\+ (?:b\/)?\S)/,
  ),
  row("test-report", "a report on the tests", /^(?:TN:[^\n]{0,200}\n)?SF:[^\n]{1,400}\n/),
];

/** Texts that a page may carry as well: what is looked for in everything. */
const EVERYWHERE = new Set(["private-key", "credentials"]);
/** A name and a value, as programs read their settings: two of them, one of which is a secret. */
const SETTING = /^(?:export )?[A-Z][A-Z0-9_]{1,60}=[^\n]*$/gm;
const SECRET_SETTING =
  /^(?:export )?[A-Z0-9_]{0,60}(?:SECRET|PASSWORD|PASSWD|TOKEN|API_?KEY|PRIVATE_KEY|DATABASE_URL|DSN)[A-Z0-9_]{0,30}=["']?[^\s"'$<{]{3}/m;
/** How much of a text is looked at, in characters. */
const LOOKED_AT = 1024 * 1024;
/** A file is about what its first characters say: this many of them. */
const FIRST_LINES = 300;
/** What shows how such a thing looks. */
const SAMPLE =
  /EXAMPLE|<[a-z_ -]{0,20}(?:your|token|password)|\b[Yy](?:our|OUR)[-_ ]|[Xx]{4}|\*{4}|[Pp]laceholder|[Cc]hange_?me/;

/**
 * What a text seems to be that visitors should not have. `isPlain` is true for one whose name says no more than that it is a text, or
 * nothing: in pages, scripts and style sheets only keys and tokens are looked for.
 */
export function findSecret(whole: string, isPlain: boolean): Telling | undefined {
  const text = whole.slice(0, LOOKED_AT);
  for (const one of TEXTS) {
    if (!isPlain && !EVERYWHERE.has(one.code)) continue;
    const found = one.pattern.exec(text);
    if (found === null) continue;
    const around = text.slice(Math.max(0, found.index - 40), found.index + found[0].length + 80);
    // An article shows a sample behind its words, a file of credentials begins with them.
    if (one.code !== "credentials" || found.index < FIRST_LINES || !SAMPLE.test(around)) return one;
  }
  const settings = isPlain ? text.match(SETTING) : null;
  return settings !== null && settings.length > 1 && SECRET_SETTING.test(text) && !SAMPLE.test(text)
    ? { code: "environment-file", what: "a program's settings, with its passwords" }
    : undefined;
}

/** What JSON seems to be that visitors should not have: a private key (RFC 7517 §4, RFC 7518 §6), or a recorded session. */
export function findSecretInJson(value: unknown): Telling | undefined {
  if (typeof value !== "object" || value === null) return undefined;
  const { keys, log } = value as { keys?: unknown; log?: unknown };
  const all = [value, ...(Array.isArray(keys) ? (keys as unknown[]) : [])];
  if (all.some(isPrivateJwk)) return { code: "private-key", what: "a private key" };
  const { entries } = (typeof log === "object" && log !== null ? log : {}) as { entries?: unknown };
  if (Array.isArray(entries) && entries.slice(0, 1000).some(hasCookies))
    return { code: "credentials", what: "a recording of somebody's session, with its cookies" };
  return undefined;
}

function isPrivateJwk(value: unknown): boolean {
  if (typeof value !== "object" || value === null) return false;
  const { kty, d, k } = value as { kty?: unknown; d?: unknown; k?: unknown };
  return typeof kty === "string" && (typeof d === "string" || (kty === "oct" && typeof k === "string"));
}

// HAR 1.2: cookies stand by themselves, and among the fields.
function hasCookies(entry: unknown): boolean {
  const { request, response } = (entry ?? {}) as Record<string, Record<string, unknown> | undefined>;
  return [request, response].some((message) => {
    const { cookies, headers } = message ?? {};
    if (Array.isArray(cookies) && cookies.length > 0) return true;
    return (
      Array.isArray(headers) &&
      headers.some((one: unknown) =>
        /^(?:cookie|set-cookie|authorization)$/i.test(String((one as { name?: unknown } | null)?.name)),
      )
    );
  });
}

/** How files begin that are not texts, and how long they are at least, in bytes. A byte below 0 may be any. */
const BYTES: readonly (Telling & { readonly start: readonly number[]; readonly atLeast?: number })[] = [
  // Programs that a system runs: ELF, PE, Mach-O.
  { code: "program", what: "a program", start: [0x7f, 0x45, 0x4c, 0x46] },
  { code: "program", what: "a program", start: [0x4d, 0x5a], atLeast: 60 },
  { code: "program", what: "a program", start: [0xcf, 0xfa, 0xed, 0xfe] },
  { code: "program", what: "a program", start: [0xce, 0xfa, 0xed, 0xfe] },
  { code: "program", what: "a program", start: [0xfe, 0xed, 0xfa, 0xcf] },
  // SQLite database file format §1.3.
  {
    code: "database",
    what: "a database",
    start: [0x53, 0x51, 0x4c, 0x69, 0x74, 0x65, 0x20, 0x66, 0x6f, 0x72, 0x6d, 0x61, 0x74, 0x20, 0x33, 0x00],
  },
  // RFC 7292 §4: version 3, and an identifier of content.
  { code: "private-key", what: "a store of keys", start: [0x30, 0x82, -1, -1, 0x02, 0x01, 0x03, 0x30] },
  // RFC 5958 §2, RFC 8017 §A.1.2, RFC 5915 §3.
  { code: "private-key", what: "a private key", start: [0x30, 0x82, -1, -1, 0x02, 0x01, 0x00, 0x30] },
  { code: "private-key", what: "a private key", start: [0x30, 0x82, -1, -1, 0x02, 0x01, 0x00, 0x02] },
  { code: "private-key", what: "a private key", start: [0x30, 0x77, 0x02, 0x01, 0x01, 0x04, 0x20] },
  { code: "private-key", what: "a private key", start: [0x30, 0x2e, 0x02, 0x01, 0x00, 0x30, 0x05, 0x06] },
  { code: "private-key", what: "a store of keys", start: [0xfe, 0xed, 0xfe, 0xed] },
  // RFC 9580 §4.2, §5.5.1.3: a packet with a secret key, in both forms of its header.
  { code: "private-key", what: "a private key", start: [0x95, -1, -1, 0x04] },
  { code: "private-key", what: "a private key", start: [0xc5, -1, -1, 0x04] },
  { code: "credentials", what: "a store of passwords", start: [0x03, 0xd9, 0xa2, 0x9a] },
  { code: "mailbox", what: "a mailbox", start: [0x21, 0x42, 0x44, 0x4e] },
  // The journals of a database, and what other ones write.
  { code: "database", what: "the journal of a database", start: [0x37, 0x7f, 0x06, -1] },
  {
    code: "database",
    what: "the journal of a database",
    start: [0xd9, 0xd5, 0x05, 0xf9, 0x20, 0xa1, 0x63, 0xd7],
  },
  { code: "database-dump", what: "an export of a database", start: [0x50, 0x47, 0x44, 0x4d, 0x50] },
  { code: "database", what: "a database", start: [0x52, 0x45, 0x44, 0x49, 0x53, 0x30, 0x30] },
];

/** What the first bytes of a file show that visitors should not have. */
export function findSecretBytes(start: Uint8Array): Telling | undefined {
  return BYTES.find(
    (one) =>
      start.length >= (one.atLeast ?? 0) && one.start.every((byte, at) => byte < 0 || start[at] === byte),
  );
}

/** True for a script of a program that answers requests, and not of a page: it loads what only a server has, and listens. */
export function isServerScript(script: string): boolean {
  return (
    /(?:\brequire\(\s*|\bfrom\s*|^[ \t]{0,40}import\s+)["'](?:node:)?(?:https?|http2|net|fs|child_process|cluster)["']/m.test(
      script,
    ) && /\.listen\(|\bcreateServer\(/.test(script)
  );
}

/** What a server would run first: where a page begins, and in one that goes on as HTML. */
const SERVER_PAGE = /^\ufeff?\s{0,100}<(?:\?(?:php|=)|%@)/;
const SERVER_PART = /<\?(?:php\s|=\s{0,9}\$)/;

/** True for a page that a server has to run before it is one; in a plain text, only where it begins so. */
export function isServerPage(text: string, isHtml: boolean): boolean {
  return SERVER_PAGE.test(text) || (isHtml && SERVER_PART.test(text));
}
