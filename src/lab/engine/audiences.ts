/** Whoever asks, and what they send. The fields are those of today's browsers and of common programs. */
export interface Audience {
  readonly label: string;
  readonly headers: Readonly<Record<string, string>>;
  /** Asks once before, and then with the validators of that answer. */
  readonly again?: boolean;
}

const CODINGS = "gzip, deflate, br, zstd";
const browser = (accept: string, dest: string, mode: string): Record<string, string> => ({
  accept,
  "accept-encoding": CODINGS,
  "accept-language": "en",
  "sec-fetch-dest": dest,
  "sec-fetch-mode": mode,
  "sec-fetch-site": "same-origin",
});
const DOCUMENT = browser(
  "text/html,application/xhtml+xml,application/xml;q=0.9,image/avif,image/webp,*/*;q=0.8",
  "document",
  "navigate",
);

export const AUDIENCES: Readonly<Record<string, Audience>> = {
  navigation: { label: "a navigation", headers: DOCUMENT },
  script: { label: "a script", headers: browser("*/*", "script", "no-cors") },
  picture: {
    label: "a picture",
    headers: browser(
      "image/avif,image/webp,image/png,image/svg+xml,image/*;q=0.8,*/*;q=0.5",
      "image",
      "no-cors",
    ),
  },
  player: {
    label: "a player that seeks",
    headers: {
      ...browser("*/*", "audio", "no-cors"),
      "accept-encoding": "identity;q=1, *;q=0",
      range: "bytes=1024-",
    },
  },
  reload: {
    label: "a reload with validators",
    headers: { ...DOCUMENT, "cache-control": "max-age=0" },
    again: true,
  },
  json: {
    label: "a program that wants JSON",
    headers: { accept: "application/json", "accept-encoding": "gzip" },
  },
  itself: { label: "only the fields below", headers: {} },
  plain: { label: "an old client without codings", headers: { accept: "*/*" } },
  other: {
    label: "a script of another origin",
    headers: {
      ...browser("*/*", "empty", "cors"),
      "sec-fetch-site": "cross-site",
      origin: "https://elsewhere.example",
    },
  },
};
