// Stands in the place of modules that need Node, in what is built for browsers: whoever asks for one of them is told.
export const openFolder = refuse;
export const readTextFile = refuse;
export const makeCompressor = refuse;
export const sealFromFile = refuse;
export const sealNow = refuse;
export const openStoredSite = refuse;
export const resolveFolder = refuse;
export const splitPattern = refuse;
export const MADE_CODINGS = undefined;
export const RELEASES_AT_MOST = 0;
export class EarlierFolders {
  constructor() {
    refuse();
  }
}

function refuse(): never {
  throw new Error("A browser has no folders: give each mount a source, such as memorySource({ … }).");
}
