// Who the members are, and who is signed in. A real site keeps members in a database, and sends mail to new ones.
import { randomBytes, scryptSync, timingSafeEqual } from "node:crypto";

const HOUR_MS = 3_600_000;
/** More are not kept: the oldest is signed out. */
const SESSIONS_AT_MOST = 10_000;

const hash = (password, salt) => scryptSync(password, salt, 32);
const member = (password) => {
  const salt = randomBytes(16);
  return { salt, hash: hash(password, salt) };
};
const MEMBERS = new Map([
  ["dunlin", member("sea mist")],
  ["tern", member("north hide")],
]);
const NOBODY = member("");

/** By id, in the order in which they began. */
const sessions = new Map();

/** The id of a new session; undefined for a wrong name or password. Both take equally long. */
export function signIn(name, password) {
  const known = MEMBERS.get(name);
  const { salt, hash: wanted } = known ?? NOBODY;
  const isRight = timingSafeEqual(hash(password.slice(0, 1000), salt), wanted);
  if (!isRight || known === undefined) return undefined;
  const id = randomBytes(24).toString("base64url");
  sessions.set(id, { name, until: Date.now() + HOUR_MS });
  if (sessions.size > SESSIONS_AT_MOST) sessions.delete(sessions.keys().next().value);
  return id;
}

export function signOut(id) {
  sessions.delete(id);
}

/** The name of whoever has the session; undefined for none, or an old one. */
export function whoHas(id) {
  const session = sessions.get(id);
  if (session === undefined) return undefined;
  if (session.until > Date.now()) return session.name;
  sessions.delete(id);
  return undefined;
}
