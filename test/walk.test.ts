import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { writeSeal } from "../src/adapters/node.js";
import { defineSite } from "../src/config/define.js";
import { openSite } from "../src/index.js";
import { openSubject } from "../src/lab/engine/open-subject.js";
import { viewFolder } from "../src/lab/engine/tree.js";
import { glanceAt } from "../src/site/quick-look.js";
import { surveySite } from "../src/survey/index.js";
import { makeTree } from "./helpers.js";

// One place knows which names visitors get: a fault there is met by whoever looks at a folder.
const fault = vi.hoisted(() => ({ isPlanted: false }));
vi.mock("../src/core/rules/mount.js", async (original) => {
  const real = await original<typeof import("../src/core/rules/mount.js")>();
  return {
    ...real,
    withheldName: (...given: Parameters<typeof real.withheldName>) =>
      fault.isPlanted ? undefined : real.withheldName(...given),
  };
});

const pages = vi.hoisted(() => ({ read: 0 }));
vi.mock("../src/reading/pages/read-html.js", async (original) => {
  const real = await original<typeof import("../src/reading/pages/read-html.js")>();
  const readHtml = (...given: Parameters<typeof real.readHtml>) => {
    pages.read++;
    return real.readHtml(...given);
  };
  return { ...real, readHtml };
});

let tree: Awaited<ReturnType<typeof makeTree>>;
beforeAll(async () => {
  tree = await makeTree({
    "site/index.html": "<title>Larkholm</title>",
    "site/.env": "KEY=1",
    "site/drafts/tern.html": "draft",
  });
});
afterAll(() => tree.remove());

test("a survey reads a page once, for its references and for its policy", async () => {
  const config = { base: tree.root, mounts: [{ folder: "site", withheld: ["drafts/"], protect: true }] };
  pages.read = 0;
  await surveySite(config);
  expect(pages.read).toBe(1);
});

test("a name that is withheld is met by no walk, and by each of them when the one filter fails", async () => {
  const config = {
    base: tree.root,
    mounts: [{ folder: "site", listing: true as const, withheld: ["drafts/"] }],
  };
  const subject = await openSubject(defineSite(config));
  const mount = subject.compiled.mounts.values()[0]!;
  const callers: Record<string, () => Promise<boolean>> = {
    "the files of a site": async () => {
      for await (const { path } of subject.site.files()) if (path === "/.env") return true;
      return false;
    },
    "a listing": async () => (await listed()).includes(".env"),
    "the survey": async () => (await surveySite(config)).findings.some(({ file }) => file === ".env"),
    "the start's look": async () => (await glanceAt(mount)).some((text) => text.includes(".env")),
    "the lab's tree": async () =>
      (await viewFolder(subject, 0, "")).entries.some(
        ({ name, state }) => name === ".env" && state !== "withheld",
      ),
    "a seal": async () => (await writeSeal(config, `${tree.root}/seal.jsonl`)).files > 1,
  };
  const met = async (): Promise<string[]> => {
    const found: string[] = [];
    for (const [name, call] of Object.entries(callers)) if (await call()) found.push(name);
    return found;
  };
  expect(await met()).toEqual([]);
  fault.isPlanted = true;
  expect(await met()).toEqual(Object.keys(callers));
});

// A fresh site each time: a listing that was made before is remembered.
async function listed(): Promise<string> {
  const site = await openSite({
    base: tree.root,
    mounts: [{ folder: "site", listing: true, defaultDocuments: [], withheld: ["drafts/"] }],
  });
  const answer = await site.respond({ method: "GET", target: "/", headers: { accept: "application/json" } });
  return answer.kind === "response" && answer.body.kind === "bytes"
    ? new TextDecoder().decode(answer.body.bytes)
    : "";
}
