// What is measured: a folder read live. Usage: node live.mjs FOLDER PORT
import { createServer } from "node:http";
import { openSite } from "epistyle";
import { nodeHandler } from "epistyle/node";

const [, , folder, port] = process.argv;
const site = await openSite({ mounts: [{ folder, codings: { prebuilt: ["br"] } }] });
createServer(nodeHandler(site)).listen(Number(port), "127.0.0.1", () => console.log("ready"));
