// Names that Windows reads as a device, with or without an extension.
const DEVICE = /^(?:con|prn|aux|nul|conin\$|conout\$|com[0-9¹²³]|lpt[0-9¹²³]) *(?:\.|$)/i;
// Characters with their own meaning there (a colon names an alternate stream), and endings that are dropped.
const MISREAD = /[<>:"|?*\x00-\x1f]|[. ]$/;

/** True when Windows reads every segment of the path as the name that is written. */
export function isPortableName(path: string): boolean {
  return path.split("/").every((segment) => !MISREAD.test(segment) && !DEVICE.test(segment));
}
