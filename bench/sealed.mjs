// What is measured: a sealed folder. Usage: node sealed.mjs FOLDER PORT
import { createServer } from "node:http";
import { openSite } from "epistyle";
import { nodeHandler } from "epistyle/node";

const [, , folder, port] = process.argv;
const site = await openSite({ mounts: [{ folder, codings: { prebuilt: ["br"] } }] }, { seal: true });
createServer(nodeHandler(site)).listen(Number(port), "127.0.0.1", () => console.log("ready"));
