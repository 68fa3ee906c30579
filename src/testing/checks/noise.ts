/** Fields that belong to one message, one machine or one visitor: they differ between any two answers, and nobody minds. */
const OF_ONE_MESSAGE = new Set(
  "date age connection keep-alive transfer-encoding via server alt-svc nel report-to reporting-endpoints trailer upgrade traceparent".split(
    " ",
  ),
);
/** What servers and those in between add to follow a request: its number, its place, its time, its copy. */
const FOLLOWS_A_REQUEST =
  /(?:^|-)(?:id|ray|pop|region|cache|cached|hits|hit|timer|timing|time|runtime|trace|served-by|powered-by|edge)(?:-|$)/;

/** True for a field, by its lower-case name, that says nothing of what is sent. */
export function isOfOneMessage(name: string): boolean {
  // Cache-Control, and CDN-Cache-Control (RFC 9213), say what everybody gets.
  if (/(?:^|-)cache-control$/.test(name)) return false;
  return OF_ONE_MESSAGE.has(name) || FOLLOWS_A_REQUEST.test(name);
}
