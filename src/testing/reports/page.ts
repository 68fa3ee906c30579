import { escapeHtml } from "../../core/text/html.js";
import { printable } from "../../core/text/printable.js";
import { REPORT_STYLE } from "./html-style.js";

/** A text as HTML, without characters that show otherwise than they are. */
export const show = (text: string): string => escapeHtml(printable(text));

/** A report as one HTML page that needs nothing beside it and runs no script. `main` is HTML, `style` is added to the reports' own. */
export function renderPage({
  title,
  main,
  style = "",
}: {
  readonly title: string;
  readonly main: string;
  readonly style?: string;
}): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>${show(title)}</title>
<style>${REPORT_STYLE}${style}</style>
</head>
<body>
<main>
${main}
</main>
</body>
</html>
`;
}
