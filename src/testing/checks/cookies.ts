import type { CookieExpectation } from "../format/schema-expectation.js";
import type { Check, Seen } from "./check.js";

/** A cookie as it is set (RFC 6265 §4.1). */
interface SetCookie {
  readonly name: string;
  readonly value: string;
  /** By lower-case name. */
  readonly attributes: ReadonlyMap<string, string>;
}

function listCookies({ reply }: Seen): SetCookie[] {
  const lines = reply.lines
    ?.filter(([name]) => name.toLowerCase() === "set-cookie")
    .map(([, value]) => value);
  const joined = reply.headers["set-cookie"];
  return (lines ?? (joined === undefined ? [] : [joined])).map((line) => {
    const [pair = "", ...attributes] = line.split(";").map((text) => text.trim());
    const [name, value] = split(pair);
    return {
      name,
      value,
      attributes: new Map(attributes.map((text) => [split(text)[0].toLowerCase(), split(text)[1]])),
    };
  });
}

function split(text: string): [name: string, value: string] {
  const at = text.indexOf("=");
  return at < 0 ? [text.trim(), ""] : [text.slice(0, at).trim(), text.slice(at + 1).trim()];
}

/** The checks of the cookies that an answer sets. */
export function checkCookies(wanted: "none" | Readonly<Record<string, CookieExpectation>>): Check[] {
  if (wanted === "none") {
    return [
      {
        about: "cookies",
        expected: "none",
        look(seen) {
          const names = listCookies(seen).map(({ name }) => name);
          return names.length === 0 ? undefined : { text: names.join(", ") };
        },
      },
    ];
  }
  return Object.entries(wanted).flatMap(([name, one]) => checkCookie(name, one));
}

function checkCookie(name: string, wanted: CookieExpectation): Check[] {
  const { present = true, value, httpOnly, secure, sameSite, path } = wanted;
  const demandOf = (
    expected: string,
    look: (cookie: SetCookie | undefined) => string | undefined,
  ): Check => ({
    about: `cookie ${name}`,
    expected,
    look(seen) {
      const got = look(listCookies(seen).find((one) => one.name === name));
      return got === undefined ? undefined : { text: got };
    },
  });
  if (!present)
    return [
      demandOf("not set", (cookie) =>
        cookie === undefined ? undefined : `set to ${JSON.stringify(cookie.value)}`,
      ),
    ];
  const about = (expected: string, look: (cookie: SetCookie) => string | undefined): Check =>
    demandOf(expected, (cookie) => (cookie === undefined ? "not set" : look(cookie)));
  const flag = (key: string, isWanted: boolean): Check =>
    about(isWanted ? key : `no ${key}`, ({ attributes }) =>
      attributes.has(key.toLowerCase()) === isWanted ? undefined : isWanted ? `no ${key}` : key,
    );
  const attribute = (key: string, expected: string): Check =>
    about(`${key}=${expected}`, ({ attributes }) => {
      const got = attributes.get(key.toLowerCase());
      return got?.toLowerCase() === expected.toLowerCase()
        ? undefined
        : got === undefined
          ? `no ${key}`
          : `${key}=${got}`;
    });
  return [
    about("set", () => undefined),
    ...(value === undefined
      ? []
      : [
          about(JSON.stringify(value), (cookie) =>
            cookie.value === value ? undefined : JSON.stringify(cookie.value),
          ),
        ]),
    ...(httpOnly === undefined ? [] : [flag("HttpOnly", httpOnly)]),
    ...(secure === undefined ? [] : [flag("Secure", secure)]),
    ...(sameSite === undefined ? [] : [attribute("SameSite", sameSite)]),
    ...(path === undefined ? [] : [attribute("Path", path)]),
  ];
}
