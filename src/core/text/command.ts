/** A name with one of these is shown in another way than it is: a command that was copied would mean another file. */
const NOT_SHOWN = /[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\ufffd]/u;

/**
 * A command line about a file, ready to be copied into a POSIX shell; `otherwise` where its name cannot be written there. The name is
 * one word and no option, whatever is in it.
 */
export function writeCommand(path: string, write: (quoted: string) => string, otherwise: string): string {
  return NOT_SHOWN.test(path) ? otherwise : write(quote(path));
}

function quote(path: string): string {
  const plain = path.startsWith("-") ? `./${path}` : path;
  return `'${plain.replaceAll("'", "'\\''")}'`;
}

/** A name as a key of YAML, in a group that is written in one line. */
export function writeKey(name: string): string {
  return /^[\w./-]+$/.test(name) ? name : JSON.stringify(name);
}
