import { start } from "../start.mjs";

const host = process.argv[2] ?? "chain";
if (host !== "chain" && host !== "fetch") {
  console.error(`Found "${host}"; write chain or fetch.`);
  process.exit(2);
}
await start(`The ${host} host`, await import(`./${host}.mjs`), {
  "/": "a file",
  "/api/birds": "the application's own route",
});
