/** How long a client may take nothing of an answer, in seconds, where nothing else is said. */
export const STALLED_SECONDS = 30;

/** Why an answer was not sent to its end. */
export type CutOff =
  | "client-left"
  /** It took nothing, or next to nothing, for too long. */
  | "client-stalled"
  /** A server that stops waits no longer. */
  | "server-stopped"
  /** The file is shorter than it was when its head was sent. */
  | "file-shortened"
  /** The device, or the source, failed. */
  | "read-failed";

/** How an answer ended. */
export interface Delivery {
  readonly status: number;
  /** Bytes of the body that were handed over. */
  readonly bytes: number;
  /** Sent to its end. */
  readonly complete: boolean;
  /** Why not, where it was not. */
  readonly cutOff?: CutOff;
}

const WORDS: Readonly<Record<CutOff, string>> = {
  "client-left": "the client disconnected",
  "client-stalled": "cut off: the client accepted no bytes for too long",
  "server-stopped": "cut off: the server stopped",
  "file-shortened": "cut off: the file became shorter while it was sent",
  "read-failed": "cut off: the file could not be read to its end",
};

/** Returns a cause in words, for developers. */
export function describeCutOff(cause: CutOff): string {
  return WORDS[cause];
}

export function cutOff(status: number, bytes: number, cause: CutOff): Delivery {
  return { status, bytes, complete: false, cutOff: cause };
}

/** A body of which nothing was sent yet: what went wrong can still be told. */
export interface Unsent {
  readonly unsent: string;
  /** It may be read in a moment. */
  readonly isTemporary?: boolean | undefined;
}

export const SHORTENED: Unsent = { unsent: "it became shorter" };

/** What a failed read has to say. */
export function toUnsent(error: unknown): Unsent {
  const unsent = error instanceof Error ? error.message : String(error);
  return { unsent, isTemporary: (error as { isTemporary?: boolean } | undefined)?.isTemporary };
}
