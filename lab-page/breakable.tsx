import { Fragment } from "preact";

/** A path or a type, which may break behind its marks, and not in the midst of a word while there is room for it. */
export function breakable(text: string) {
  return text.split(/(?<=[/.,;=_-])/).map((part, index) => (
    <Fragment key={index}>
      {index > 0 && <wbr />}
      {part}
    </Fragment>
  ));
}
