import { expect, test } from "vitest";
// @ts-expect-error: the soak is of plain modules
import { live } from "../soak/life.mjs";

// The short form of `npm run soak`: what a week brings to a server, and nothing is left of it.
test("reloads, certificates, deaths, scrapes, resets, silent clients and an open lab leave nothing behind", {
  timeout: 240_000,
}, async () => {
  const { wrong, before, after } = await live({ rounds: 3 });
  expect(wrong).toEqual([]);
  // The command with the lab, whose process is the same all the time, holds what it held.
  expect(after[1].descriptors).toBeLessThanOrEqual(before[1].descriptors + 2);
  expect(after[0].sockets).toBeLessThanOrEqual(before[0].sockets + 2);
});
