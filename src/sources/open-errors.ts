import type { Found, MissingCause } from "../core/source.js";

export function missing(because: MissingCause): Found {
  return { kind: "missing", because };
}

/** What it means that a name cannot be opened, by the system's error code (POSIX open()). */
export function explainError(error: NodeJS.ErrnoException): Found {
  switch (error.code) {
    case "ENOENT":
    case "ENAMETOOLONG":
    case "EINVAL":
    case "EILSEQ":
    case "ERR_INVALID_ARG_VALUE":
      return missing("no-such-file");
    case "ENOTDIR":
      return missing("not-a-directory");
    case "ELOOP":
      return missing("link-loop");
    case "EACCES":
    case "EPERM":
      return { kind: "forbidden", cause: error.code };
    case "ENXIO":
    case "ENODEV":
    case "EOPNOTSUPP":
      return { kind: "special" };
    case "EMFILE":
    case "ENFILE":
      return { kind: "failed", cause: `${error.code}: no file descriptors left`, busy: true };
    default:
      return { kind: "failed", cause: error.code ?? error.message, busy: false };
  }
}
