import { join } from "node:path";
import { epistyle } from "epistyle/vite";
import { answerApi } from "./api.mjs";

const here = (path) => join(import.meta.dirname, path);

/** The API, in dev and preview as in production: before the files. */
const api = {
  name: "fieldbook-api",
  configureServer: ({ middlewares }) => void middlewares.use(answerApi),
  configurePreviewServer: ({ middlewares }) => void middlewares.use(answerApi),
};

export default {
  root: import.meta.dirname,
  oxc: { jsx: { runtime: "automatic", importSource: "preact" } },
  plugins: [
    api,
    epistyle({
      config: here("epistyle.config.yaml"),
      prebuilt: ["br", "gzip"],
      survey: "warning",
      check: [here("expectations.yaml")],
      seal: here("dist.seal.jsonl"),
    }),
  ],
  build: {
    outDir: here("dist"),
    emptyOutDir: true,
    rolldownOptions: { input: [here("index.html"), here("404.html")] },
  },
};
