const ATTR_CHAR = /^[A-Za-z0-9!#$&+\-.^_`|~]$/;

/**
 * Writes a Content-Disposition that makes the browser save the file under a name (RFC 6266 §4): in ASCII for old clients,
 * and in full as RFC 8187 §3.2 has it.
 */
export function formatAttachment(name: string): string {
  const base = name.slice(name.lastIndexOf("/") + 1).toWellFormed();
  // RFC 6266 §4.3, Appendix D: no controls, quotes or percent escapes in the plain form.
  const plain = base
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .replace(/[^\x20-\x7e]|[%\\"]/gu, "_");
  const field = `attachment; filename="${plain}"`;
  if (plain === base) return field;
  // RFC 8187 §3.2.1: what is no attr-char is percent-encoded as UTF-8.
  const encoded = [...base].map((c) => (ATTR_CHAR.test(c) ? c : escapeCharacter(c))).join("");
  return `${field}; filename*=UTF-8''${encoded}`;
}

function escapeCharacter(character: string): string {
  const code = character.charCodeAt(0);
  return code > 0x7f ? encodeURIComponent(character) : `%${code.toString(16).toUpperCase().padStart(2, "0")}`;
}
