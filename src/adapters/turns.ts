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

  /** Tells that the connection has ended. */
  end(): void {
    this.#listener?.();
  }

  /** Made ready for the next request. */
  clear(): void {
    this.#listener = undefined;
  }
}

type Start = (turn: Turn) => Promise<unknown>;

/** The requests of one connection. Its turns are made once, and taken by one request after the other. */
class Line {
  readonly #connection: Connection;
  readonly #width: number;
  readonly #free: Turn[] = [];
  readonly #taken: Turn[] = [];
  readonly #waiting: Start[] = [];

  constructor(connection: Connection, width: number) {
    this.#connection = connection;
    this.#width = width;
    connection.once("close", () => {
      this.#waiting.length = 0;
      for (const turn of this.#taken) turn.end();
    });
  }

  take(start: Start): void {
    if (this.#taken.length < this.#width) void this.#run(this.#free.pop() ?? new Turn(), start);
    else if (!this.#connection.destroyed) this.#waiting.push(start);
  }

  async #run(turn: Turn, first: Start): Promise<void> {
    this.#taken.push(turn);
    for (let start: Start | undefined = first; start !== undefined; start = this.#waiting.shift()) {
      await start(turn);
      turn.clear();
    }
    this.#taken.splice(this.#taken.indexOf(turn), 1);
    this.#free.push(turn);
  }
}

const lines = new WeakMap<object, Line>();

/**
 * Lets requests of one connection have their turn: so many are under way at a time, and the others wait without a file open or
 * a byte in memory, however many a client sends at once (pipelining, RFC 9112 §9.3.2). What still waits when the connection
 * ends is dropped: nobody is there to answer.
 */
export function takeTurn(connection: Connection | undefined, width: number, start: Start): void {
  if (connection === undefined) {
    // A request that a test or a host made up stands in no line.
    void start(new Turn());
    return;
  }
  let line = lines.get(connection);
  if (line === undefined) {
    line = new Line(connection, width);
    lines.set(connection, line);
  }
  line.take(start);
}
