import { formatCount } from "../core/text/size.js";
/** A line on the terminal that counts, while a run takes long. Elsewhere, and for a short run, nothing is shown. */
export interface Progress {
  /** Says what is being done, until something else is said. */
  say(text: string): void;
  /** Says what somebody has to know, where it is no terminal as well. */
  tell(text: string): void;
  begin(total: number): void;
  readonly count: (result: { readonly outcome: string }, done: number) => void;
  end(): void;
}

const SHOW_AFTER_MS = 400;
const EVERY_MS = 80;

export function openProgress(stream: NodeJS.WriteStream): Progress {
  let [total, failed, started, last] = [0, 0, 0, 0];
  const isShown = (): boolean => last > 0;
  return {
    say(text) {
      if (!stream.isTTY) return;
      last = Date.now();
      stream.write(`\r\x1b[K${text}`);
    },
    tell(text) {
      if (stream.isTTY) this.say(text);
      else stream.write(`${text}\n`);
    },
    begin(cases) {
      [total, failed, started] = [cases, 0, Date.now()];
    },
    count({ outcome }, done) {
      if (outcome === "failed" || outcome === "unanswered") failed++;
      const now = Date.now();
      if (!stream.isTTY || now - started < SHOW_AFTER_MS || now - last < EVERY_MS) return;
      last = now;
      const bad = failed === 0 ? "" : `, ${formatCount(failed)} failed`;
      stream.write(`\r\x1b[K${formatCount(done)} of ${formatCount(total)} cases${bad}`);
    },
    end() {
      if (isShown()) stream.write("\r\x1b[K");
      last = 0;
    },
  };
}
