// Names as builds make them: schemes of fingerprints, drawn from a seed.
const LOWER = "abcdefghijklmnopqrstuvwxyz";
const UPPER = LOWER.toUpperCase();
const DIGITS = "0123456789";

/** Alphabets that builders write digests in. */
export const ALPHABETS = {
  hexadecimal: `${DIGITS}abcdef`,
  base32: `${UPPER}234567`,
  base36: DIGITS + LOWER,
  base58: `123456789${UPPER}${LOWER}`.replace(/[IOl]/g, ""),
  base62: DIGITS + UPPER + LOWER,
  base64url: `${UPPER + LOWER + DIGITS}-_`,
};
export const LENGTHS = [8, 10, 12, 16, 20, 32];
export const SEPARATORS = ["-", ".", ""];

const STEMS =
  "index main vendor About Home useSightings chunk page-layout i18n en runtime react-dom List DetailView common app styles logo hero season_report SeasonReport map-view heron call-of-the-curlew field-guide"
    .split(" ")
    .concat("Arctic tern call", "Zugvögel", "view (north)");
const EXTENSIONS = ".js .css .js .mjs .woff2 .svg .min.js .module.css .js.map .js.br .png .wav".split(" ");

/** Numbers from 0 to 1, the same for a seed (mulberry32). */
export function drawFrom(seed) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}

/** So many names of one scheme, as they lie in one folder. */
export function makeFolder(alphabet, length, separator, count, draw) {
  const one = (list) => list[Math.floor(draw() * list.length)];
  const signs = ALPHABETS[alphabet];
  return Array.from({ length: count }, () => {
    const digest = Array.from({ length }, () => one(signs)).join("");
    return `${separator === "" ? "" : one(STEMS) + separator}${digest}${one(EXTENSIONS)}`;
  });
}
