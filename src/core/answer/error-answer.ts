import { Fields } from "../fields/fields.js";
import type { KnownFiles } from "../represent/known-files.js";
import { describeFile } from "../represent/profile.js";
import type { SiteRequest } from "../request/request.js";
import type { OpenFiles } from "../resolve/open-files.js";
import type { Rules } from "../rules/rules.js";
import { type BuiltInPages, chooseBuiltInPage } from "./built-in-page.js";
import { type BodyPlan, type Draft, NO_BODY, type Refusal } from "./plan.js";

/** What errors are planned with, besides the request: the rules in force, the mount's files where there is one, what is known. */
export interface ErrorContext {
  readonly rules: Rules;
  /** Undefined outside of every mount. */
  readonly files: OpenFiles | undefined;
  readonly known: KnownFiles;
  readonly pages: BuiltInPages;
  readonly nowSeconds: number;
}

/** Plans an error: with the document the rules name for the status, or else a built-in body. Never a redirect, never conditional. */
export async function answerError(
  context: ErrorContext,
  request: SiteRequest,
  refusal: Refusal,
): Promise<Draft> {
  const { errorPages } = context.rules;
  // Without a page of its own, 410 uses the page for 404.
  const path = errorPages.get(refusal.status) ?? (refusal.status === 410 ? errorPages.get(404) : undefined);
  const own =
    path === undefined || context.files === undefined
      ? undefined
      : await answerWithDocument({ ...context, files: context.files }, path, request, refusal);
  return own ?? answerBuiltIn(context.pages, request, refusal);
}

const EACH_TIME = Fields.of(["Cache-Control", "no-cache", "an error is revalidated each time"]);

async function answerWithDocument(
  { rules, files, known, nowSeconds }: ErrorContext & { readonly files: OpenFiles },
  path: string,
  request: SiteRequest,
  { status, reason, fields: more }: Refusal,
): Promise<Draft | undefined> {
  const candidate = await files.open(path, "error page");
  if (candidate.kind !== "file") return undefined;
  const { file } = candidate;
  try {
    const profile = await describeFile(
      known,
      { address: files.addressOf(path), path, file, mount: files.mount, rules, answers: "own address" },
      nowSeconds,
    );
    const length = file.metadata.sizeBytes;
    // Neither validators nor a lifetime: an error is sent whole each time.
    const fields = profile.type
      .append("Content-Length", String(length), "the size of the error page")
      .concat(EACH_TIME)
      .concat(more)
      .concat(profile.ownFields);
    const body: BodyPlan =
      request.method === "HEAD" ? NO_BODY : { kind: "file", file, parts: [{ offset: 0, length }] };
    return { kind: "response", status, fields, body, file: undefined, reason };
  } catch {
    // An error page that cannot be read must not make the error another one.
    return undefined;
  }
}

/** Plans an error with the built-in body, in the form that the client wants. */
function answerBuiltIn(pages: BuiltInPages, request: SiteRequest, refusal: Refusal): Draft {
  const { status, reason, fields } = refusal;
  const page = chooseBuiltInPage(pages, request, refusal);
  return {
    kind: "response",
    status,
    fields: fields === Fields.NONE ? page.fields : page.fields.supply(fields),
    body: request.method === "HEAD" ? NO_BODY : { kind: "bytes", bytes: page.bytes },
    file: undefined,
    reason,
  };
}
