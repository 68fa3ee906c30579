import type { Beam, LabConnection, LookProgress, Watched } from "../src/lab/shapes.js";

/** The lab's own server, at the page's own address. */
export function connectToServer(): LabConnection {
  return {
    info: () => call("info", {}),
    folder: (mount, path) => call("folder", { mount, path }),
    search: (text) => call("search", { text }),
    ask: (question) => call("ask", question),
    askDraft: async (text, question) =>
      (await call<Beam | null>("ask-draft", { text, question })) ?? undefined,
    preview: (text, { signal, onProgress }) =>
      call("preview", { text, progress: true }, { signal, onProgress }),
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

interface CallOptions {
  readonly signal?: AbortSignal;
  readonly onProgress?: (progress: LookProgress) => void;
}

async function call<Value>(
  name: string,
  given: unknown,
  { signal, onProgress }: CallOptions = {},
): Promise<Value> {
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
  const value = (await readValue(response, onProgress)) as Value & { problem?: string };
  if (!response.ok) throw new Error(value.problem ?? `The lab answered ${response.status}.`);
  return value;
}

// Lines of JSON: the last one is the outcome, those before it say how far it has come.
async function readValue(
  response: Response,
  onProgress?: (progress: LookProgress) => void,
): Promise<unknown> {
  if (response.headers.get("content-type") !== "application/x-ndjson") return response.json();
  let left = "";
  const decoder = new TextDecoder();
  const reader = response.body!.getReader();
  for (let { done, value } = await reader.read(); !done; { done, value } = await reader.read()) {
    const lines = (left + decoder.decode(value, { stream: true })).split("\n");
    left = lines.pop()!;
    for (const line of lines) onProgress?.(JSON.parse(line) as LookProgress);
  }
  const outcome = JSON.parse(left) as { problem?: string };
  if (outcome.problem !== undefined) throw new Error(outcome.problem);
  return outcome;
}
