import { readFileSync } from "node:fs";

const texts = new Map();

/** A fault in words that stay the same while lines move: its file, its line, the text that it replaces, and what with. */
export function describeFault({ fileName, location: { start, end }, replacement = "" }) {
  if (!texts.has(fileName)) texts.set(fileName, readFileSync(fileName, "utf8").split("\n"));
  const lines = texts.get(fileName).slice(start.line, end.line + 1);
  const line = oneLine(lines[0]);
  lines.push(lines.pop().slice(0, end.column));
  lines[0] = lines[0].slice(start.column);
  return {
    file: `src/${fileName.split("/src/").at(-1)}`,
    line,
    was: oneLine(lines.join("\n")),
    becomes: oneLine(replacement),
  };
}

const oneLine = (text) => text.replace(/\s+/g, " ").trim();
