import { beam, printable, printHeading, type Terminal, wrap } from "../adapters/log/terminal.js";
import type { Changes } from "../lab/shapes.js";

/** How many addresses of a group are named. */
const NAMED_AT_MOST = 5;

/** Prints what a change of configuration does, in groups: how many addresses change in one way, from what to what, and some of them. */
export function printChanges(
  terminal: Terminal,
  { sentence, asked, groups, isSampled }: Changes,
  { here, there }: { readonly here: string; readonly there: string },
): void {
  const { colors } = terminal;
  printHeading(terminal, `here   ${here}\nthere  ${there}`);
  for (const { count, words, here: before, there: after, examples } of groups) {
    terminal.print(colors.bold(`${count} ${words}`));
    if (before !== after) {
      printRow(terminal, "here", before);
      printRow(terminal, "there", after);
    }
    for (const example of examples.slice(0, NAMED_AT_MOST)) printRow(terminal, "", example);
    if (count > NAMED_AT_MOST) printRow(terminal, "", `and ${count - NAMED_AT_MOST} more`);
    terminal.print();
  }
  if (groups.length > 0) terminal.print(beam(terminal));
  for (const line of wrap(sentence, terminal.columns ?? 100))
    terminal.print((groups.length === 0 ? colors.green : colors.red)(line));
  const samples = isSampled ? " Other clients than browsers were asked about samples." : "";
  terminal.print(
    colors.dim(`${asked} requests were sent to both; … means a name that no file has.${samples}`),
  );
}

function printRow(terminal: Terminal, label: string, text: string): void {
  const room = Math.min(terminal.columns ?? 110, 110) - 8;
  for (const [index, line] of wrap(printable(text), room).entries())
    terminal.print(`${terminal.colors.cyan((index === 0 ? label : "").padEnd(8))}${line}`);
}
