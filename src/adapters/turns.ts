/** What requests are in progress on: a socket of HTTP/1.1, or a session of HTTP/2. */
export interface Connection {
  readonly destroyed: boolean;
  once(event: "close", listener: () => void): unknown;
}

/** A request's turn on its connection. */
export class Turn {
  /** The request's place in the line. */
  place = 0;
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

/** A request that wants its turn. */
interface Request {
  readonly request: object;
  /** A log or a record wants every request, so this one is started even after its connection has ended. */
  readonly isTold?: boolean;
}

interface Waiting {
  readonly place: number;
  readonly start: Start;
  readonly isTold: boolean;
}

/** The requests of one connection. Its turns are made once, and taken by one request after the other. */
class Line {
  readonly #connection: Connection;
  readonly #width: number;
  readonly #free: Turn[] = [];
  readonly #taken: Turn[] = [];
  #waiting: Waiting[] = [];
  /** The place in the line of each request: that of its first handler, where it is passed on to another. */
  readonly #places = new WeakMap<object, number>();
  #last = 0;

  constructor(connection: Connection, width: number) {
    this.#connection = connection;
    this.#width = width;
    connection.once("close", () => {
      this.#waiting = this.#waiting.filter(({ isTold }) => isTold);
      for (const turn of this.#taken) turn.end();
    });
  }

  take({ request, isTold = false }: Request, start: Start): void {
    let place = this.#places.get(request);
    if (place === undefined) {
      place = ++this.#last;
      this.#places.set(request, place);
    }
    if (this.#hasRoom(this.#taken, place))
      void this.#run(this.#free.pop() ?? new Turn(), { place, start, isTold });
    else if (isTold || !this.#connection.destroyed) {
      const behind = this.#waiting.findLastIndex((one) => one.place <= place);
      this.#waiting.splice(behind + 1, 0, { place, start, isTold });
    }
  }

  async #run(turn: Turn, first: Waiting): Promise<void> {
    this.#taken.push(turn);
    for (let one: Waiting | undefined = first; one !== undefined; one = this.#next(turn)) {
      turn.place = one.place;
      await one.start(turn);
      turn.clear();
    }
    this.#taken.splice(this.#taken.indexOf(turn), 1);
    this.#free.push(turn);
  }

  #next(turn: Turn): Waiting | undefined {
    const [first] = this.#waiting;
    if (first === undefined) return undefined;
    const others = this.#taken.filter((one) => one !== turn);
    return this.#hasRoom(others, first.place) ? this.#waiting.shift() : undefined;
  }

  // Whoever stands before all that are in progress is who they wait for, and never waits for them.
  #hasRoom(underWay: readonly Turn[], place: number): boolean {
    return underWay.length < this.#width || underWay.every((turn) => turn.place > place);
  }
}

const lines = new WeakMap<object, Line>();

/**
 * Lets requests of one connection have their turn: this many are in progress at a time, and the others wait without a file open or
 * a byte in memory, however many a client sends at once (pipelining, RFC 9112 §9.3.2). What still waits when the connection
 * ends is dropped, because nobody is there to answer, unless a log or a record wants every request (`isTold`).
 */
export function takeTurn(
  [connection, width]: readonly [connection: Connection | undefined, width: number],
  request: Request,
  start: Start,
): void {
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
  line.take(request, start);
}
