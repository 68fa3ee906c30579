import type { Reason } from "../explain/reason.js";
import type { ListingRules } from "../rules/listing.js";
import type { Variant } from "../rules/variants.js";
import type { OpenedFile } from "../source.js";
import type { DirectoryCandidate } from "./open-files.js";

/** What answers a path of a mount. What is opened is the `OpenFiles`' own. */
export type Resolution =
  | { kind: "file"; path: string; file: OpenedFile; reason: Reason; variant?: Variant | undefined }
  | { kind: "listing"; found: DirectoryCandidate; rules: ListingRules }
  | { kind: "redirect"; location: string; reason: Reason; temporary?: boolean }
  | {
      kind: "none";
      status: 403 | 404 | 410 | 500 | 503;
      reason: Reason /** Another client would have got the app shell at this address. */;
      dependsOnClient?: boolean;
    };
