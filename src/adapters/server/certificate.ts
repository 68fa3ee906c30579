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

/**
 * TLS 1.2 with forward secrecy and authenticated encryption alone (RFC 9325 §4.2; RFC 9113 §9.2.2 forbids the others to HTTP/2), and all of
 * TLS 1.3.
 */
export const CIPHERS = [
  "TLS_AES_128_GCM_SHA256",
  "TLS_AES_256_GCM_SHA384",
  "TLS_CHACHA20_POLY1305_SHA256",
  ...["ECDHE-ECDSA", "ECDHE-RSA"].flatMap((name) =>
    ["AES128-GCM-SHA256", "AES256-GCM-SHA384", "CHACHA20-POLY1305"].map((cipher) => `${name}-${cipher}`),
  ),
].join(":");

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
      const isThere = code === "EACCES" || code === "EPERM";
      const why = code === "ENOENT" ? "which does not exist" : `which cannot be read (${code})`;
      const fix = isThere ? "let this user read it" : "write the path of a PEM file";
      throw new StartError(`tls.${what}: found ${JSON.stringify(path)}, ${why}; ${fix}.`);
    }
  };
  const pair = { cert: await read(cert, "cert"), key: await read(key, "key") };
  const holds = (pem: Buffer, label: RegExp): boolean => label.test(pem.toString("latin1"));
  try {
    createSecureContext(pair);
  } catch (error) {
    if (!holds(pair.cert, CERTIFICATE) && holds(pair.key, CERTIFICATE))
      throw new StartError(
        `tls: ${cert} has no certificate, and ${key} has one: the two are in each other's place; swap them.`,
      );
    for (const [what, path, pem, label] of [
      ["cert", cert, pair.cert, CERTIFICATE],
      ["key", key, pair.key, KEY],
    ] as const)
      if (!holds(pem, label))
        throw new StartError(
          `tls.${what}: found ${JSON.stringify(path)}, which has no ${what === "cert" ? "certificate" : "private key"} in PEM form; write the path of a PEM file.`,
        );
    throw new StartError(
      `tls: the certificate ${cert} and the key ${key} cannot be used together (${(error as Error).message}); write two PEM files that match.`,
    );
  }
  return pair;
}

const CERTIFICATE = /-----BEGIN (?:TRUSTED )?CERTIFICATE-----/;
const KEY = /-----BEGIN [A-Z ]*PRIVATE KEY-----/;

/** How long the two files may differ while they are replaced one after the other, in milliseconds. */
const RENEWAL_MS = 5_000;

/** What follows a certificate's files. */
export interface CertificateFollower {
  /** Called with each new pair. */
  readonly use: (certificate: Certificate) => void;
  /** Called with what to fix when the files have changed, and cannot be used even when both had the time to be replaced. */
  readonly refuse: (error: StartError) => void;
}

/**
 * Reads the certificate again when a file changes. A pair that cannot be used is left alone, as the other file may be still to come, and
 * told when it does not. Gives what ends it.
 */
export function followCertificate(options: TlsOptions, { use, refuse }: CertificateFollower): () => void {
  let telling: NodeJS.Timeout | undefined;
  let turn = 0;
  const reread = (): void => {
    // A later change overtakes this one.
    const mine = ++turn;
    clearTimeout(telling);
    readCertificate(options).then(
      (pair) => {
        if (mine === turn) use(pair);
      },
      (error: StartError) => {
        if (mine !== turn) return;
        telling = setTimeout(refuse, RENEWAL_MS, error);
        telling.unref();
      },
    );
  };
  const paths = [options.cert, options.key];
  for (const path of paths) watchFile(path, { interval: INTERVAL_MS, persistent: false }, reread);
  return () => {
    turn++;
    clearTimeout(telling);
    for (const path of paths) unwatchFile(path, reread);
  };
}
