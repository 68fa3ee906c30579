import pc from "picocolors";

import { printable } from "../../core/text/printable.js";

export { printable };

/** Where a command prints, and what it may use there. */
export interface Terminal {
  /** Columns that fit; undefined when the output is piped, where lines may have any length. */
  readonly columns: number | undefined;
  readonly colors: ReturnType<typeof pc.createColors>;
  print(line?: string): void;
}

export function openTerminal(stream: NodeJS.WriteStream): Terminal {
  return {
    get columns() {
      return stream.isTTY ? stream.columns || 80 : undefined;
    },
    colors: pc.createColors(stream.isTTY === true && !process.env.NO_COLOR),
    print: (line = "") => void stream.write(`${line}\n`),
  };
}

/** A heading over the beam. */
export function printHeading(terminal: Terminal, text: string): void {
  terminal.print(terminal.colors.bold(text));
  terminal.print(beam(terminal));
}

export function beam(terminal: Terminal): string {
  return terminal.colors.cyan("━".repeat(Math.min(terminal.columns ?? 78, 100)));
}

/** Cuts a text in its middle so that it fits. */
export function cutToFit(text: string, width: number): string {
  if (text.length <= width) return text;
  if (width <= 1) return "…".slice(0, width);
  const head = Math.ceil((width - 1) / 2);
  return `${text.slice(0, head)}…${text.slice(text.length - (width - 1 - head))}`;
}

/** Breaks a text into lines at its blanks. */
export function wrap(text: string, width: number): string[] {
  const lines: string[] = [];
  for (const word of printable(text).split(" ")) {
    const last = lines.at(-1);
    if (last === undefined || last.length + 1 + word.length > width) lines.push(word);
    else lines[lines.length - 1] = `${last} ${word}`;
  }
  return lines;
}
