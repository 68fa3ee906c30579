import { unwatchFile, watchFile } from "node:fs";
import { readFile } from "node:fs/promises";
import { createSecureContext } from "node:tls";
import { StartError } from "./place.js";

/** Where a certificate is: paths of PEM files. */
export interface TlsOptions {
  /** The certificate, with those between it and the authority's behind it. */
  readonly cert: string;
  readonly key: string;
}

/** A certificate with its key, as the files hold them. */
export interface Certificate {
  readonly cert: Buffer;
  readonly key: Buffer;
}

/** How often the files' times are looked at, in milliseconds. */
const INTERVAL_MS = 1000;

/** Reads a certificate. Rejects with a StartError that says what to fix. */
export async function readCertificate({ cert, key }: TlsOptions): Promise<Certificate> {
  const read = async (path: string, what: string): Promise<Buffer> => {
    try {
      return await readFile(path);
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      const why = code === "ENOENT" ? "which does not exist" : `which cannot be read (${code})`;
      throw new StartError(
        `tls.${what}: found ${JSON.stringify(path)}, ${why}; write the path of a PEM file.`,
      );
    }
  };
  const pair = { cert: await read(cert, "cert"), key: await read(key, "key") };
  try {
    createSecureContext(pair);
  } catch (error) {
    throw new StartError(
      `tls: the certificate ${cert} and the key ${key} cannot be used together (${(error as Error).message}); write two PEM files that match.`,
    );
  }
  return pair;
}

/**
 * Reads the certificate again when a file changes. A pair that does not fit together is left alone: the other file may be still to
 * come. Gives what ends it.
 */
export function followCertificate(
  options: TlsOptions,
  use: (certificate: Certificate) => void,
  interval = INTERVAL_MS,
): () => void {
  const reread = (): void => {
    readCertificate(options).then(use, () => {});
  };
  const paths = [options.cert, options.key];
  for (const path of paths) watchFile(path, { interval, persistent: false }, reread);
  return () => {
    for (const path of paths) unwatchFile(path, reread);
  };
}
