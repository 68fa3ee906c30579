import { spawn } from "node:child_process";

/** The system's own command that opens an address, by platform. */
const OPENERS: Readonly<Record<string, readonly string[]>> = {
  darwin: ["open"],
  win32: ["cmd", "/c", "start", ""],
};

/** Opens an address in the browser that people here use. Tells where that cannot be done; nothing else depends on it. */
export function openBrowser(url: string, tell: (text: string) => void): void {
  const [command, ...args] = OPENERS[process.platform] ?? ["xdg-open"];
  const child = spawn(command!, [...args, url], { stdio: "ignore", detached: true });
  child.once("error", () =>
    tell(`No browser could be opened (${command} is not installed); open ${url} yourself.`),
  );
  child.unref();
}
