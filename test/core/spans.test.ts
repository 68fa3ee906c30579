import fc from "fast-check";
import { expect, test } from "vitest";
import { removeSpans } from "../../src/core/text/spans.js";

test("what stands between two marks is removed, and what is not closed stays", () => {
  const part = fc.constantFrom("<!--", "-->", "-", "a", "\n");
  fc.assert(
    fc.property(
      fc.array(part, { maxLength: 30 }).map((parts) => parts.join("")),
      fc.constantFrom("", " "),
      (text, by) => {
        expect(removeSpans(text, "<!--", "-->", by)).toBe(text.replace(/<!--[\s\S]*?-->/g, by));
      },
    ),
    {
      examples: [
        ["<!--a-->", ""],
        ["<!-->a", ""],
      ],
    },
  );
});
