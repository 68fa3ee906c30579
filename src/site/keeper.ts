import type { Answer } from "../core/answer/plan.js";
import type { FieldValues, ReadyAnswer, RequestKey } from "../core/keep/kept-answers.js";
import { respondAndKeep } from "../core/keep/respond-and-keep.js";
import type { SiteRequest } from "../core/request/request.js";
import { respond } from "../core/respond.js";
import type { CompiledSite } from "../core/site.js";
import { foldHeaderNames } from "./header-names.js";
import { openKeeping } from "./platform.js";
import type { Responder } from "./site.js";

/** What a site keeps of its answers, for adapters: an answer that is given again needs nothing but a look at the disk. */
export interface Keeper {
  /** The answer to a request, at once; undefined where none is kept, or what it was made from changed. */
  recall(key: RequestKey, values: FieldValues): ReadyAnswer | undefined;
  /** Plans the response, and keeps it where the same was asked before and it can be given again. */
  respond(key: RequestKey, request: SiteRequest): Promise<Answer>;
}

const KEEPER = Symbol("keeper");

/** Lets a site keep its answers, where the platform can. */
export function addKeeper(site: object, compiled: CompiledSite): void {
  const keeping = openKeeping(compiled.remembered.memory);
  if (keeping === undefined) return;
  const { kept } = keeping;
  const keeper: Keeper = {
    recall: (key, values) => kept.recall(key, values, compiled.now()),
    respond: (key, request) =>
      kept.isWanted(key, compiled.now())
        ? respondAndKeep(compiled, keeping, request, key)
        : respond(compiled, foldHeaderNames(request)),
  };
  // A copy of the site that answers in its own way does not take it over.
  Object.defineProperty(site, KEEPER, { value: keeper });
}

/** Lets a site that stands for another, which may be exchanged, keep what that one keeps. */
export function followKeeper(site: object, current: () => Responder): void {
  const keeper: Keeper = {
    recall: (key, values) => keeperOf(current())?.recall(key, values),
    respond(key, request) {
      const now = current();
      return keeperOf(now)?.respond(key, request) ?? now.respond(request);
    },
  };
  Object.defineProperty(site, KEEPER, { value: keeper });
}

/** The keeper of a site; undefined where it has none. */
export function keeperOf(site: object): Keeper | undefined {
  return (site as { [KEEPER]?: Keeper })[KEEPER];
}
