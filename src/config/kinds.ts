import type { RulesConfig } from "./config-types.js";

export type Kind = "pages" | "app" | "archive";

/** The starting set of rules of each kind; what a kind does not say is the rule's default. */
export const KINDS: Readonly<Record<Kind, RulesConfig>> = {
  pages: { impliedExtensions: [".html"] },
  app: { appShell: "/index.html", caching: [{ files: "fingerprinted", policy: "immutable" }] },
  archive: { listing: true },
};
