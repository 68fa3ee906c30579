import { SaxesParser } from "saxes";

/** A document that nests deeper is not judged: a prefix of each element is looked for in all around it. */
const DEEPEST = 256;
/** A longer document is not judged, in characters. */
const LONGEST = 4 * 1024 * 1024;

/** Thrown through the parser to stop it. */
class Stop extends Error {}

/**
 * Why an XML document is not well-formed (XML 1.0 §2.1, Namespaces in XML §7), in words without a full stop; undefined where it is, and for
 * one that is too long or too deep to be judged. The time is linear in its length.
 */
export function findXmlMistake(text: string): string | undefined {
  if (text.length > LONGEST) return undefined;
  let mistake: string | undefined;
  let depth = 0;
  let hasDoctype = false;
  const parser = new SaxesParser({ xmlns: true, position: true });
  // A document type may declare entities, which are not read.
  parser.ENTITIES = new Proxy(parser.ENTITIES, {
    get: (known, name) => known[String(name)] ?? (hasDoctype ? " " : undefined),
  });
  parser.on("doctype", () => {
    hasDoctype = true;
  });
  parser.on("opentag", () => {
    if (++depth > DEEPEST) throw new Stop();
  });
  parser.on("closetag", () => void depth--);
  parser.on("error", ({ message }) => {
    // The parser puts line and column in front.
    const [, line, what] = /^(?:(\d+):\d+: )?(.*)$/s.exec(message)!;
    mistake = `${what!.replace(/\.$/, "")}${line === undefined ? "" : ` (line ${line})`}`;
    throw new Stop();
  });
  try {
    parser.write(text).close();
  } catch (error) {
    if (!(error instanceof Stop)) throw error;
  }
  return mistake;
}
