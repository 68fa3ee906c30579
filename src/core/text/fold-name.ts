/** Brings names together that some file system takes for one: case and Unicode normalisation form. */
export function foldName(name: string): string {
  return name.normalize("NFC").toLowerCase();
}
