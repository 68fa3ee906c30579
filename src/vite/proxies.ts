import type { ResolvedConfig } from "vite";

/** Tells which addresses Vite hands on, in its own way to write them: a path's beginning, or a regular expression behind "^". */
export function readProxies(proxy: ResolvedConfig["preview"]["proxy"]): (url: string) => boolean {
  const contexts = Object.keys(proxy ?? {});
  const tests = contexts.map((context) => {
    const pattern = context.startsWith("^") ? new RegExp(context) : undefined;
    return (url: string): boolean => pattern?.test(url) ?? url.startsWith(context);
  });
  return (url) => tests.some((matches) => matches(url));
}
