/** What requests are under way on: a socket of HTTP/1.1, or a session of HTTP/2. */
export interface Connection {
  readonly destroyed: boolean;
  once(event: "close", listener: () => void): unknown;
}

/** A request's turn on its connection. */
export class Turn {
  #listener: (() => void) | undefined;

  /** Has the listener called when the connection ends while it is this request's turn. One at a time. */
  whenGone(listener: () => void): void {
    this.#listener = listener;
  }

  end(): void {
    this.#listener?.();
  }
}

interface Line {
  readonly underWay: Set<Turn>;
  readonly waiting: (() => void)[];
}

const lines = new WeakMap<object, Line>();

/**
 * Lets requests of one connection have their turn: so many are under way at a time, and the others wait without a file open or
 * a byte in memory, however many a client sends at once (pipelining, RFC 9112 §9.3.2). What still waits when the connection
 * ends is dropped: nobody is there to answer.
 */
export function takeTurn(
  connection: Connection | undefined,
  width: number,
  start: (turn: Turn) => Promise<unknown>,
): void {
  if (connection === undefined) {
    // A request that a test or a host made up stands in no line.
    void start(new Turn());
    return;
  }
  let line = lines.get(connection);
  if (line === undefined) {
    line = makeLine(connection);
    lines.set(connection, line);
  }
  const own = line;
  if (own.underWay.size < width) void run(own, start);
  else if (!connection.destroyed) own.waiting.push(() => void run(own, start));
}

function makeLine(connection: Connection): Line {
  const line: Line = { underWay: new Set(), waiting: [] };
  connection.once("close", () => {
    line.waiting.length = 0;
    for (const turn of line.underWay) turn.end();
  });
  return line;
}

async function run(line: Line, start: (turn: Turn) => Promise<unknown>): Promise<void> {
  const turn = new Turn();
  line.underWay.add(turn);
  await start(turn);
  line.underWay.delete(turn);
  line.waiting.shift()?.();
}
