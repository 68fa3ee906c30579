/**
 * How many bits it takes to write a letter behind another one in words of ten European languages, in hexadecimal: a row for each letter
 * before, from a to z, the last for a word's beginning. Made by tools/letters.mjs.
 */
const LETTERS = [
  "65446658576343859334658987",
  "359829893894983ac357499c49",
  "3c5a3cc23856aa3b95955bba65",
  "3786187838868638b457578b76",
  "66556657576442769234767796",
  "38a7347838849939c364499c78",
  "38b7295549857549c345499c89",
  "28aa298a3795663ac564497c69",
  "4645365a9664534685347599c5",
  "296526896c566538c856379cb6",
  "3799388748548538c444467c79",
  "2675377728737737a955579a58",
  "259828983a874724c86749ab6a",
  "38533637386895499833779b77",
  "75556658676442659335564986",
  "3999379639949834c36559ac8a",
  "abccccccaccaccbcbcbc0bbccc",
  "266527683a6754379545578c76",
  "47483776484657448832578c76",
  "389a288637878749c345588c67",
  "5555455846644375a3348778a7",
  "29c829992b96a73ac66877ccac",
  "28783a972b779648c7585a9c38",
  "394a38a62b868943aa8356956a",
  "5535575876443465c4347749c5",
  "27672a7939666537a8864a6c45",
  "34444555575545548434656b96",
];

/** What a character is, for the runs that a text falls into. */
type Kind = "lower" | "upper" | "digit" | "joint";

/**
 * How many bits it takes to write a text of letters, digits, dashes and underlines as people write names: of words, abbreviations,
 * numbers and dates. A text drawn at random takes more bits than its alphabet has for it; a name that was thought of takes fewer.
 */
export function bitsAsWritten(text: string): number {
  let bits = 0;
  let before: Kind | undefined;
  let changes = 0;
  for (const run of text.match(RUNS)!) {
    const kind = kindOf(run);
    if (before === undefined) bits += FIRST[kind];
    else if (kind === "joint") bits += 2;
    else if (before === "joint") bits += 1;
    else bits += CHANGE + CHANGE_MORE * changes++ + (before === "digit" ? 1 : 0);
    bits += kind === "digit" ? bitsOfNumber(run) : kind === "joint" ? run.length : bitsOfLetters(run, kind);
    before = kind;
  }
  return bits;
}

const CHANGE = 3.5;
const CHANGE_MORE = 1;
const FIRST: Readonly<Record<Kind, number>> = { lower: 1, upper: 2, digit: 1.5, joint: 4 };

/** A capital before a small letter is the beginning of its word. */
const RUNS = /[A-Z]?[a-z]+|[A-Z]+(?![a-z])|\d+|[-_]+/g;

function kindOf(run: string): Kind {
  const last = run.charCodeAt(run.length - 1);
  if (last >= 97) return "lower";
  if (last === 95 || last === 45) return "joint";
  return last >= 65 ? "upper" : "digit";
}

function bitsOfLetters(run: string, kind: Kind): number {
  let bits = kind === "upper" ? 2 : 0;
  let row = LETTERS[26]!;
  for (const letter of run.toLowerCase()) {
    const index = letter.charCodeAt(0) - 97;
    bits += Number.parseInt(row[index]!, 16);
    row = LETTERS[index]!;
  }
  // An abbreviation has any letters, and few of them.
  return Math.min(bits, 4.7 * run.length + 1 + 2 * Math.max(0, run.length - 4));
}

function bitsOfNumber(run: string): number {
  if (/^(?:19|20)\d\d(?:0[1-9]|1[0-2])(?:0[1-9]|[12]\d|3[01])/.test(run)) return 15 + 3.32 * (run.length - 8);
  if (/^(?:19|20)\d\d/.test(run)) return 8 + 3.32 * (run.length - 4);
  return 3.32 * run.length;
}
