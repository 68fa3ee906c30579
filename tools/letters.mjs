// Prints the table of src/reading/builds/likeness.ts: how many bits it takes to write a letter behind another one, in words of ten languages.
// Needs Debian's word lists: wamerican wdanish wdutch wfrench witalian wngerman wpolish wportuguese wspanish wswedish.
import { readFileSync } from "node:fs";

const LISTS = "american-english danish dutch french italian ngerman polish portuguese spanish swedish".split(
  " ",
);
const WORDS_AT_MOST = 400_000;
const LETTERS = 26;
/** The row of a word's beginning. */
const START = LETTERS;
/** What is never seen is given this share of a row, so that it takes bits that can be written. */
const UNSEEN = 0.0002;
const FOLDED = { ł: "l", ø: "o", æ: "ae", ß: "ss" };

function countPairs(list) {
  const counts = Array.from({ length: LETTERS + 1 }, () => new Float64Array(LETTERS));
  const words = readFileSync(`/usr/share/dict/${list}`, "utf8").split("\n");
  const step = Math.ceil(words.length / WORDS_AT_MOST);
  for (let index = 0; index < words.length; index += step) {
    const plain = words[index].normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
    for (const piece of plain.replace(/[łøæß]/g, (one) => FOLDED[one]).split(/[^a-z]+/)) {
      if (piece.length < 2) continue;
      let before = START;
      for (const letter of piece) {
        const at = letter.charCodeAt(0) - 97;
        counts[before][at]++;
        before = at;
      }
    }
  }
  return counts;
}

const sums = Array.from({ length: LETTERS + 1 }, () => new Float64Array(LETTERS));
for (const list of LISTS) {
  const counts = countPairs(list);
  const all = counts.reduce((sum, row) => sum + row.reduce((a, b) => a + b, 0), 0);
  // Each language counts the same, however long its list is.
  for (const [index, row] of counts.entries())
    for (const [at, count] of row.entries()) sums[index][at] += count / all;
}
for (const row of sums) {
  const all = row.reduce((a, b) => a + b, 0);
  const least = all * UNSEEN;
  const bits = [...row].map((count) => -Math.log2((count + least) / (all + LETTERS * least)));
  console.log(`  "${bits.map((one) => Math.min(15, Math.round(one)).toString(16)).join("")}",`);
}
