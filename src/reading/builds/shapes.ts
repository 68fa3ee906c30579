import type { Kind } from "../contents/kinds.js";
import { ALPHABETS, type Alphabet } from "./alphabets.js";
import { bitsAsWritten } from "./likeness.js";
import { kindByName, withoutCompanion } from "./named-after.js";
import { readTokens, type Token } from "./token.js";

/** How names end in a folder that a build made: a separator, then a number of characters from an alphabet. */
export interface Shape {
  readonly separator: Token["separator"];
  readonly length: number;
  readonly alphabet: Alphabet["name"];
  /** How many different endings of the folder have it. */
  readonly count: number;
}

/** Fewer endings have no shape. */
const FEWEST = 2;
/** How many endings of a shape are weighed. */
const WEIGHED = 128;
/** How many kinds of endings are weighed, those of the most names. */
const KINDS_WEIGHED = 32;
/** A single ending counts for no more than this, in bits: one odd name proves nothing of the others. */
const ONE_AT_MOST = 12;
/** Bits that an ending of the length of others speaks for a build, one of another length against it. */
const ALIKE = 2.9;
const OTHER = 1.2;
const OTHERS_AT_MOST = 30;
/** From here on, in bits, a shape is a build's. */
const ENOUGH = 4;
/** The same for two endings, which may be alike by chance, and for names that are nothing but their ending. */
const ENOUGH_OF_TWO = 9;
const ENOUGH_ALONE = 6;
/** The same for a length that no digest has as a rule. */
const ENOUGH_OF_RARE_LENGTH = 10;
/** A position of the endings is ordered, as in serial numbers and dates, if that saves this many bits: it is not random. */
const ORDERED = 3;
/** Ordered at this many of its positions, an ending is no digest; some digests begin with a few letters only. */
const ORDERED_PLACES = 0.5;
/** Characters that never change, if they save this many bits together, are a word that the names share. */
const SHARED = 12;
/** If this many endings share a half with others, that half means something. */
const REPEATED = 0.3;
/** A name that reads this well was given by somebody, even if it is as long as the others: in bits, and in bits for each character. */
const TOO_READABLE = 17;
const TOO_READABLE_EACH = 1.8;
/** The same for a single word in an alphabet that has much besides small letters: few digests look so. */
const TOO_READABLE_WORD_EACH = 1.5;
/** A larger alphabet wins if it is within this many bits of the smaller: then a character that few endings have belongs to it. */
const AS_GOOD = 12;
/** What a name alone must not fall below, in bits, by the kind of its ending. */
const BEYOND_DOUBT = { capitals: 45, whole: 22, rareLength: 22, usual: 12, code: 5, oddCode: -4 } as const;
/** Kinds of files that builds name more often than people do. */
const BUILT: ReadonlySet<Kind> = new Set(["script", "style", "font"]);
const USUAL_LENGTHS = new Set([8, 10, 12, 16, 20, 24, 32, 40, 64]);

/** How many more bits a text takes as people write than as it is drawn from an alphabet. */
function excessBits(text: string, alphabet: Alphabet, written = bitsAsWritten(text)): number {
  const bits = written - text.length * Math.log2(alphabet.size);
  // Words with dashes between them are long, and odd together.
  return bits > 0 && /[-_]/.test(text) ? bits / 2 : bits;
}

/** The fingerprint of a name that has one beyond doubt, whatever lies beside it. */
export function findPlainToken(name: string): Token | undefined {
  return readTokens(name).find(({ separator, text }) => {
    if (separator === "_") return false;
    const alphabet = ALPHABETS.find(({ isOf }) => isOf.test(text))!;
    return excessBits(text, alphabet) >= BEYOND_DOUBT[doubtOf(name, separator, text)];
  });
}

function doubtOf(name: string, separator: string, text: string): keyof typeof BEYOND_DOUBT {
  const isUsual = USUAL_LENGTHS.has(text.length);
  if (separator !== "" && isUsual && /[A-Z\d]/.test(text) && BUILT.has(kindByName(withoutCompanion(name))))
    return text.length === BUILDERS_LENGTH && !isOfWords(text) ? "oddCode" : "code";
  // People write products' and serial numbers in capitals and digits.
  if (!/[a-z]/.test(text)) return "capitals";
  if (separator === "") return "whole";
  return isUsual ? "usual" : "rareLength";
}

/** The length that builders take where nobody says another. */
const BUILDERS_LENGTH = 8;
// A word, words run together, an abbreviation with a word before or behind it; a number, behind a word, too.
const WORDS = /^(?:[A-Z]?[a-z]+(?:[A-Z][a-z]+)*|[A-Z]{2,}[a-z]*|[a-z]+[A-Z]{2,})?\d*$/;

const isOfWords = (text: string): boolean => text.split(/[-_]/).every((piece) => WORDS.test(piece));

/** What the names of one folder have in common. */
export class FolderShapes {
  readonly #shapes = new Map<string, Shape & { readonly of: Alphabet }>();

  constructor(names: readonly string[]) {
    const all = new Set(names);
    const groups = new Map<string, Set<string>>();
    let others = 0;
    for (const name of names) {
      if (isCompanion(name, all)) continue;
      others++;
      for (const { separator, text } of readTokens(name)) {
        const key = separator + text.length;
        const group = groups.get(key);
        if (group === undefined) groups.set(key, new Set([text]));
        else group.add(text);
      }
    }
    const most = [...groups].filter(([, texts]) => texts.size >= FEWEST);
    most.sort(([, a], [, b]) => b.size - a.size);
    for (const [key, texts] of most.slice(0, KINDS_WEIGHED)) {
      const shape = weigh(key, [...texts], others);
      if (shape !== undefined) this.#shapes.set(key, shape);
    }
  }

  /** The shape that a name has; undefined where it has none, or reads as if people had given it. */
  find(name: string): Shape | undefined {
    const token = this.findToken(name);
    return token && this.#shapes.get(token.separator + token.text.length);
  }

  /** The ending of a name that has one of the shapes. */
  findToken(name: string): Token | undefined {
    return readTokens(name).find(({ separator, text }) => {
      const shape = this.#shapes.get(separator + text.length);
      return shape?.of.isOf.test(text) === true && isOneOf(text, shape.of);
    });
  }
}

/** True for an ending that may be one of a shape's, although it may read well. */
function isOneOf(text: string, alphabet: Alphabet, bits = excessBits(text, alphabet)): boolean {
  if (/^[A-Z]?[a-z]+$/.test(text) && alphabet.size > 36 && bits <= -TOO_READABLE_WORD_EACH * text.length)
    return false;
  return bits > -Math.max(TOO_READABLE, TOO_READABLE_EACH * text.length);
}

// What lies beside a file, and is named after it, says nothing more.
function isCompanion(name: string, all: ReadonlySet<string>): boolean {
  const other = withoutCompanion(name);
  return other !== name && all.has(other);
}

function weigh(key: string, texts: readonly string[], names: number): (Shape & { of: Alphabet }) | undefined {
  const step = Math.max(1, texts.length / WEIGHED);
  const sample = Array.from(
    { length: Math.min(texts.length, WEIGHED) },
    (_, i) => texts[Math.floor(i * step)]!,
  );
  const separator = key.slice(0, key.length - String(sample[0]!.length).length) as Token["separator"];
  if (separator === "" && texts.length === FEWEST) return undefined;
  const written = sample.map((text) => bitsAsWritten(text));
  const length = sample[0]!.length;
  const weighed = ALPHABETS.flatMap((alphabet) => {
    const members: string[] = [];
    let score = 0;
    for (const [index, text] of sample.entries()) {
      if (!alphabet.isOf.test(text)) continue;
      const bits = excessBits(text, alphabet, written[index]);
      if (!isOneOf(text, alphabet, bits)) continue;
      members.push(text);
      score += Math.max(-ONE_AT_MOST, Math.min(ONE_AT_MOST, bits));
    }
    if (members.length < 2) return [];
    const count = (members.length / sample.length) * texts.length;
    score += Math.max(-OTHERS_AT_MOST, ALIKE * (members.length - 1) - OTHER * Math.max(0, names - count));
    return [{ alphabet, score, members }];
  });
  const wanted =
    (texts.length === FEWEST ? ENOUGH_OF_TWO : ENOUGH) +
    (separator === "" ? ENOUGH_ALONE : 0) +
    (USUAL_LENGTHS.has(length) ? 0 : ENOUGH_OF_RARE_LENGTH);
  const most = Math.max(...weighed.map(({ score }) => score));
  const best = weighed.findLast(({ score }) => score >= wanted && score >= most - AS_GOOD);
  if (best === undefined) return undefined;
  const alphabet = ALPHABETS.find(({ isOf }) => best.members.every((text) => isOf.test(text)))!;
  if (isOrdered(best.members, alphabet)) return undefined;
  return { separator, length, alphabet: alphabet.name, of: alphabet, count: texts.length };
}

// Whether the places of the texts can be told one by one: a letter here, a digit there, the same sign throughout.
function isOrdered(texts: readonly string[], { size }: Alphabet): boolean {
  const length = texts[0]!.length;
  const drawn = texts.length * Math.log2(size);
  let ordered = 0;
  let shared = 0;
  for (let at = 0; at < length; at++) {
    const signs = texts.map((text) => text[at]!);
    const isShared = signs.every((sign) => sign === signs[0]);
    const saved = drawn - (isShared ? Math.log2(size) + 2 : bitsOfPlace(signs, size));
    if (isShared) shared += saved;
    if (saved >= ORDERED) ordered++;
  }
  const half = Math.ceil(length / 2);
  const halves = [texts.map((text) => text.slice(0, half)), texts.map((text) => text.slice(-half))];
  const repeats = halves.some((all) => new Set(all).size < all.length * (1 - REPEATED));
  return ordered > length * ORDERED_PLACES || shared >= SHARED || repeats;
}

const KINDS = [/[a-z]/, /[A-Z]/, /\d/, /[-_]/];

// As a reader would guess who learns from one text after the other (the estimator of Krichevsky and Trofimov).
function bitsOfPlace(signs: readonly string[], size: number): number {
  const letters = size === 16 ? 6 : 26;
  const sizes = [letters, letters, size === 32 ? 6 : 10, 2];
  const seen = [0, 0, 0, 0];
  let bits = 0;
  for (const [index, sign] of signs.entries()) {
    const kind = KINDS.findIndex((one) => one.test(sign));
    bits += Math.log2((index + 2) / (seen[kind]! + 0.5)) + Math.log2(sizes[kind]!);
    seen[kind]!++;
  }
  return bits;
}
