import { beam, cutToFit, printable, printHeading, type Terminal } from "../adapters/log/terminal.js";
import { formatCount } from "../core/text/size.js";
import type { LostAddresses } from "../survey/lost/find-lost.js";
import { formatRules } from "../survey/lost/ready-rules.js";

/** How many addresses are shown; the rules and the JSON report have all. */
const SHOWN = 20;

/** Prints the addresses that were lost, where they probably are now, and rules that lead there; the sum last. */
export function printLost(
  terminal: Terminal,
  { earlier, current, addresses, ...rules }: LostAddresses,
): void {
  const { colors } = terminal;
  printHeading(terminal, `earlier  ${earlier}\nnow      ${current}`);
  const shown = addresses.slice(0, SHOWN);
  const widthOf = (texts: readonly string[]): number =>
    Math.min(48, Math.max(0, ...texts.map((text) => printable(text).length)));
  const width = widthOf(shown.map(({ address }) => address));
  const nowWidth = widthOf(shown.map(({ now }) => now?.address ?? ""));
  for (const { address, now } of shown) {
    const old = cutToFit(printable(address), width).padEnd(width);
    const found =
      now === undefined
        ? colors.dim("nothing like it")
        : `${cutToFit(printable(now.address), nowWidth).padEnd(nowWidth)}  ${colors.dim(now.because)}`;
    terminal.print(`lost  ${old}  ${found}`);
  }
  if (addresses.length > SHOWN)
    terminal.print(
      colors.dim(`      and ${formatCount(addresses.length - SHOWN)} more; --report json lists all`),
    );
  const text = formatRules(rules);
  if (text !== "") {
    terminal.print("\nRules for the configuration; check them before you copy them:\n");
    for (const line of text.trimEnd().split("\n")) terminal.print(printable(line));
    terminal.print();
  }
  if (addresses.length > 0) terminal.print(beam(terminal));
  terminal.print(
    addresses.length === 0
      ? colors.green("Every old address still answers.")
      : colors.red(
          addresses.length === 1
            ? "1 address no longer answers."
            : `${formatCount(addresses.length)} addresses no longer answer.`,
        ),
  );
}
