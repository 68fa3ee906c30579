/**
 * Faults that nobody can see from outside, each with why: they are not tried. `line` is the line it begins in, `was` the text that
 * it replaces and `becomes` what it is replaced with, as `npm run mutants -- --all` prints them.
 */
export const WITHOUT_EFFECT = [];
