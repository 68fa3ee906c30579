import type { LabConnection, Watched } from "../src/lab/shapes.js";

/** The lab's own server, at the page's own address. */
export function connectToServer(): LabConnection {
  return {
    info: () => call("info", {}),
    folder: (mount, path) => call("folder", { mount, path }),
    search: (text) => call("search", { text }),
    ask: (question) => call("ask", question),
    preview: (text, signal) => call("preview", { text }, signal),
    save: (edited) => call("save", edited),
    draftCase: async (question) => (await call<{ text: string }>("draft-case", question)).text,
    check: (text) => call("check", { text }),
    saveExpectations: (edited) => call("save-expectations", edited),
    watch({ onRequest, onChanged, onConnection }) {
      const events = new EventSource("api/watch");
      events.onmessage = ({ data }) => onRequest(JSON.parse(data) as Watched);
      events.addEventListener("changed", onChanged);
      events.addEventListener("full", () => events.close());
      // The browser tries again by itself, as long as the address stays the same.
      events.onopen = () => onConnection(true);
      events.onerror = () => onConnection(false);
      return () => events.close();
    },
  };
}

async function call<Value>(name: string, given: unknown, signal?: AbortSignal): Promise<Value> {
  const init = {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(given),
  };
  const response = await fetch(`api/${name}`, { ...init, ...(signal && { signal }) }).catch(
    (error: Error) => {
      if (error.name === "AbortError") throw error;
      throw new Error("The lab does not answer. Start it again, and open the address that it prints.");
    },
  );
  const value = (await response.json()) as Value & { problem?: string };
  if (!response.ok) throw new Error(value.problem ?? `The lab answered ${response.status}.`);
  return value;
}
