import { parseTarget } from "../../core/request/target.js";
import { type AddressRule, type Destination, MovedAddresses } from "../../core/rules/moved.js";

/** Where an old address leads, as written. */
export type MovedTo =
  | string
  | {
      readonly to: string;
      readonly temporary?: boolean | undefined;
      readonly query?: "keep" | "drop" | undefined;
    };

export interface AddressConfig {
  readonly moved?: Readonly<Record<string, MovedTo>> | undefined;
  readonly gone?: readonly string[] | undefined;
}

/** Compiles the rules for addresses that moved or are gone. */
export function compileMoved({ moved = {}, gone = [] }: AddressConfig): MovedAddresses {
  const rules: AddressRule[] = [
    ...Object.entries(moved).map(([from, to]) => compileOne(from, to)),
    ...gone.map((from, index) => ({ ...compileOld(from), label: `gone[${index}]` })),
  ];
  return new MovedAddresses(rules);
}

function compileOld(address: string): { from: string; folder: boolean } {
  const { path, directoryForm } = readAddress(address)!;
  return { from: path, folder: directoryForm };
}

function compileOne(from: string, given: MovedTo): AddressRule {
  const { to, temporary = false, query } = typeof given === "string" ? { to: given } : given;
  return {
    ...compileOld(from),
    label: `moved[${JSON.stringify(from)}]`,
    to: readDestination(to)!,
    temporary,
    keepsQuery: (query ?? "keep") === "keep" && !to.includes("?"),
  };
}

/** Reads an address as people write it, or escaped. */
export function readAddress(address: string): ReturnType<typeof parse> {
  // What is no escape is its own percent sign.
  return parse(address.replace(/%(?![\da-f]{2})/gi, "%25"));
}

function parse(address: string) {
  const parsed = parseTarget(address);
  return parsed.ok ? parsed.value : undefined;
}

export function readDestination(to: string): Destination | undefined {
  // RFC 3986 §3.2: no user information, which hides the host from readers.
  if (/^https?:\/\/[^\s/?#@\\]+(?:[/?#][\x21-\x7e]*)?$/i.test(to) && !/[\\<>"`{}|^]/.test(to))
    return { kind: "elsewhere", url: /^https?:\/\/[^/?#]*$/i.test(to) ? `${to}/` : to };
  const [, address, query = "", fragment = ""] = /^(\/[^?#]*)(\?[^#]*)?(#.*)?$/s.exec(to) ?? [];
  if (address === undefined || /[^\x21-\x7e]/.test(query + fragment)) return undefined;
  const target = readAddress(address);
  if (target === undefined || target.emptySegment) return undefined;
  const slash = target.directoryForm && target.path !== "";
  return { kind: "here", path: target.path, slash, rest: query + fragment };
}
