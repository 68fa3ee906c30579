// Compiled by `npm run verify`, never run: what must compile, and what must not.
import { createServer } from "node:http";
import { createServer as createHttp2Server, createSecureServer } from "node:http2";
import { z } from "zod";
import {
  fileHandler,
  loadConfigFile,
  nodeHandler,
  type ResponseRecord,
  startServer,
} from "../../src/adapters/node.js";
import { webFileHandler, webHandler } from "../../src/adapters/web.js";
import { addsUp, innermost, type Said } from "../../src/config/compiler.js";
import { defineRule } from "../../src/config/rule.js";
import type { siteSchema } from "../../src/config/schema.js";
import {
  type Answer,
  defineSite,
  describeReason,
  type FileSource,
  memorySource,
  openSite,
  releasePlan,
  type Site,
  type SiteConfig,
} from "../../src/index.js";
import type { expectationsSchema } from "../../src/testing/format/schema.js";
import { askSite, assertMeets, type ExpectationsFile, openProbe } from "../../src/testing/index.js";

const config: SiteConfig = {
  base: import.meta.url,
  typesFile: "./types",
  crossOrigin: ["https://larkholm.example"],
  mounts: [
    {
      folder: "./dist",
      kind: "app",
      appShell: { file: "/index.html", except: ["/api"] },
      caching: [
        { files: "media/**", policy: { maxAge: "10m", staleWhileRevalidate: 86_400 }, cdn: "no-store" },
      ],
    },
    {
      at: "/archive",
      source: memorySource({ "a.txt": "a" }),
      listing: {
        order: "time",
        render: ({ entries }, form) => ({
          mediaType: form,
          body: entries.map(({ name, sizeBytes }) => `${name} ${sizeBytes}`).join(),
        }),
      },
    },
    {
      at: "/records",
      folder: new URL("./records", import.meta.url).pathname,
      areas: { "/old": { errorPages: { 404: "/404.html" }, listing: false } },
    },
  ],
};

// The documented uses.
export async function documented(): Promise<void> {
  const site: Site = await openSite(defineSite(config));
  const same: Site = await openSite(await loadConfigFile("epistyle.config.yaml"));
  createServer(nodeHandler(site)).listen(8080);
  createServer(
    nodeHandler(site, {
      onResponse: ({ delivery, milliseconds, why }: ResponseRecord) =>
        console.log(delivery.bytes, milliseconds, why),
    }),
  );
  createSecureServer({ allowHTTP1: true }, nodeHandler(site));
  createHttp2Server(fileHandler(site, "/report.pdf", { saveAs: "Season.pdf" }));
  const chain: ((
    request: import("node:http").IncomingMessage,
    response: import("node:http").ServerResponse,
    next: (error?: unknown) => void,
  ) => void)[] = [nodeHandler(same)];
  const answer: Answer = await site.respond({ method: "GET", target: "/", headers: {} });
  if (answer.kind === "response")
    for (const { name, value, because } of answer.fields)
      console.log(name, value, because, answer.fields.get("etag"), answer.fields.flat.length);
  releasePlan(answer);
  const { trace, hints } = await site.explain({
    method: "GET",
    target: "/x",
    headers: { accept: ["text/html", "*/*"] },
  });
  const response: Response | undefined = await webHandler(site)(new Request("http://larkholm.example/"));
  await webFileHandler(site, "/a", { mayPass: false })(new Request("http://larkholm.example/"));
  for await (const { path, kind } of site.files()) console.log(path, kind, describeReason(answer.reason));
  const { url, close } = await startServer(site, { host: "::1", port: 0 });
  assertMeets(await (await openProbe(site)).get("/about"), {
    status: 200,
    headers: { ETag: { present: true } },
  });
  for (const { name, bound, entries, proof } of site.memory.metrics())
    console.log(name, bound, entries, proof);
  console.log(chain, trace, hints, response, url, close, askSite(site, "memory"));
}

export async function mistakes(site: Site): Promise<void> {
  // @ts-expect-error A misspelt key of a mount.
  await openSite({ mounts: [{ folder: "./dist", whenMising: "pass" }] });
  // @ts-expect-error A misspelt key of an area.
  await openSite({ mounts: [{ folder: "./dist", areas: { "/a": { withhelt: [] } } }] });
  // @ts-expect-error A key that is only for the mount.
  await openSite({ mounts: [{ folder: "./dist" }], errorPages: { 404: "/404.html" } });
  // @ts-expect-error A value that is none of those allowed.
  defineSite({ mounts: [{ folder: "./dist", kind: "application" }] });
  // @ts-expect-error A policy's misspelt key.
  defineSite({ mounts: [{ folder: ".", caching: [{ files: "*", policy: { inmutable: true } }] }] });
  // @ts-expect-error No mounts.
  defineSite({ base: import.meta.url });
  // @ts-expect-error A missing await: a promise is no site.
  nodeHandler(openSite(config));
  // @ts-expect-error A configuration is no site.
  nodeHandler(config);
  // @ts-expect-error No site at all.
  nodeHandler();
  // @ts-expect-error A folder is no site.
  webHandler("./public");
  // @ts-expect-error A misspelt option.
  nodeHandler(site, { onRespose: () => {} });
  // @ts-expect-error A port is a number.
  await startServer(site, { port: "8080" });
  // @ts-expect-error A missing await: a promise has no status.
  site.respond({ method: "GET", target: "/", headers: {} }).status;
  // @ts-expect-error Fields never change.
  (await site.respond({ method: "GET", target: "/", headers: {} })).fields = undefined;
  // @ts-expect-error A source lists and describes what it has.
  const source: FileSource = { name: "half", open: () => ({ kind: "missing", because: "no-such-file" }) };
  console.log(source);
}

const schema = z.array(z.string());
const explain = (names: readonly string[]): string => names.join();
const said = { description: "", example: "[]", scope: "site", schema, explain } as const;
const compile = (names: string[]): string[] => names;
// A rule says all of itself: its default among it.
export const whole = defineRule({ ...said, ...innermost({ default: [], compile }) });
// @ts-expect-error No default.
export const without = innermost({ compile });
// @ts-expect-error No default here, either.
export const adding = addsUp({
  compile: (all: readonly Said<string[]>[]) => all.flatMap(({ value }) => value),
});
// @ts-expect-error A default of another type.
export const other = innermost({ default: false, compile });
// @ts-expect-error A compiler of other values than the schema's.
export const strange = defineRule({
  ...said,
  ...innermost({ default: 1, compile: (n: number) => [String(n)] }),
});
// @ts-expect-error No explanation.
export const silent = defineRule({
  ...innermost({ default: [], compile }),
  description: "",
  example: "[]",
  scope: "site",
  schema,
});

// The types that are written out for readers are those of the schemas: npm run docs writes them.
type Same<A, B> = (<T>() => T extends A ? 1 : 2) extends <T>() => T extends B ? 1 : 2 ? true : never;
type Plain<T> = T extends (infer I)[]
  ? Plain<I>[]
  : T extends (...args: never[]) => unknown
    ? T
    : T extends URL
      ? T
      : T extends object
        ? { [K in keyof T]: Plain<T[K]> }
        : T;
export const configuration: Same<Plain<z.input<typeof siteSchema>>, Plain<SiteConfig>> = true;
export const file: Same<Plain<z.output<typeof expectationsSchema>>, Plain<ExpectationsFile>> = true;
