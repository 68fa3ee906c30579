/** Why an answer is what it is, as data: a code, and the name or value it is about. */
export interface Reason {
  readonly code: ReasonCode;
  readonly subject?: string;
  /** The key of the configuration that decided: `moved["/notes/"]`. */
  readonly rule?: string;
  /** It is withheld for a name with a leading dot, and not by a pattern. */
  readonly isDotName?: boolean;
  /** Why the app shell did not answer in its place, where there is one. */
  readonly shellRefused?: ShellRefusal;
  /** What became of it where something is behind the site: the value of `whenMissing`, and where that is said. */
  readonly whenMissing?: { readonly value: "pass" | "answer"; readonly said: string };
}

/** Why an app shell does not answer, and what that is about. */
export interface ShellRefusal {
  readonly code: keyof typeof REFUSALS;
  readonly subject?: string;
}

const REFUSALS = {
  extension: "the name has a file extension",
  excepted: "… is excepted from it",
  "not-a-navigation": "the request is not a navigation",
  missing: "there is no …",
} as const;

/** Each code with its sentence for the developer; `…` stands where the subject goes. Visitors never see these. */
export const SENTENCES = {
  "exact-file": "the file of that name",
  "default-document": "the default document of the directory",
  "implied-extension": "the name with the implied extension …",
  variant: "the variant that … prefers",
  "earlier-release": "only the earlier release … has it",
  "not-fingerprinted": "not a fingerprinted name (…)",
  listing: "the listing of the directory",
  "app-shell": "the app shell: a navigation that no file answers",
  "not-modified": "the client's copy is current (…)",
  "precondition-failed": "the precondition … does not hold",
  partial: "a range of it, as Range asks (…)",
  "range-unsatisfiable": "the range is not in the file (…)",
  preflight: "allows this origin to read",
  "missing-slash": "a directory's address ends with a slash",
  moved: "… redirects it",
  gone: "… says that it is gone",
  "long-address": "the file has a shorter address",
  options: "lists the methods it supports",
  "method-not-allowed": "files are read with GET and HEAD, not with …",
  "method-passed-on": "… belongs to the application",
  "outside-every-mount": "no mount covers this path",
  "outside-stripped-prefix": "the path is not under the prefix … that the host stripped",
  "no-such-file": "no such file",
  "too-long": "the path, or a name in it, is too long for a file",
  "not-a-directory": "the path goes through a file as if it were a directory",
  "name-differs": "the name differs in case or in Unicode form from the one on disk",
  "name-not-portable": "this system would read the name as another name",
  "link-leads-outside": "the symbolic link leads outside the folder",
  "link-not-followed": "a symbolic link, and links are not followed here",
  "link-loop": "symbolic links form a circle",
  "empty-segment": "the path has an empty segment (two slashes in a row)",
  "slash-after-file": "a file's address has no slash at its end",
  withheld: "withheld: …",
  special: "neither a regular file nor a directory",
  "no-permission": "it exists, but this process cannot read it (…)",
  "no-default-document": "no default document (…) and no listing",
  failed: "the file could not be read (…)",
  unsettled: "it was replaced whenever it was opened",
  "not-sealed": "its bytes on disk are not the sealed ones",
  busy: "it cannot be read at the moment (…)",
  "not-a-path": "the request target is not a path",
  "several-hosts": "the request has more than one Host field",
  "bad-escape": "a percent escape that is not UTF-8",
  "control-character": "a NUL character in the path",
  "encoded-slash": "an encoded slash (%2F) in the path",
  backslash: "a backslash in the path",
  "dot-segment": "a dot segment (. or ..) in the path",
} as const;

/** The codes of reasons; the reference lists them with their sentences. */
export type ReasonCode = keyof typeof SENTENCES;

/** Returns a reason in words, without a full stop. */
export function describeReason(reason: Reason): string {
  const { code, subject, shellRefused, whenMissing } = reason;
  const sentence = insert(SENTENCES[code], subject);
  const shell =
    shellRefused === undefined
      ? ""
      : `; the app shell was not used: ${insert(REFUSALS[shellRefused.code], shellRefused.subject)}`;
  if (whenMissing === undefined) return sentence + shell;
  const { value, said } = whenMissing;
  const outcome = value === "pass" ? "passed on to the application behind the site" : "answered here";
  return `${sentence}${shell}; ${outcome} (whenMissing: ${value}, ${said})`;
}

function insert(sentence: string, subject = "unknown"): string {
  return sentence.replace("…", () => subject);
}
