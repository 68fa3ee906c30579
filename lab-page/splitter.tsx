import { useState } from "preact/hooks";

/** The columns whose width can be set. */
export type Column = "files" | "side";

const KEY = "epistyle-lab-widths";
/** One key moves a column by so much, in CSS pixels. */
const STEP = 24;
const NARROWEST = 160;

/** The widths of the columns, as this browser had them last. */
export function useWidths(): {
  readonly widths: Readonly<Record<string, string>>;
  readonly setWidth: (column: Column, pixels: number) => void;
} {
  const [set, setAll] = useState<Readonly<Partial<Record<Column, number>>>>(read);
  return {
    widths: Object.fromEntries(Object.entries(set).map(([column, pixels]) => [`--${column}`, `${pixels}px`])),
    setWidth(column, pixels) {
      const width = Math.round(Math.min(Math.max(pixels, NARROWEST), innerWidth * 0.6));
      setAll((before) => {
        const next = { ...before, [column]: width };
        try {
          localStorage.setItem(KEY, JSON.stringify(next));
        } catch {
          // Then they last as long as the page.
        }
        return next;
      });
    },
  };
}

function read(): Partial<Record<Column, number>> {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "{}") as Record<string, unknown>;
    return Object.fromEntries(
      Object.entries(kept).filter(
        ([name, value]) => /^(?:files|side)$/.test(name) && typeof value === "number",
      ),
    ) as Partial<Record<Column, number>>;
  } catch {
    return {};
  }
}

/** The line between two columns: it is dragged, or moved with the arrow keys. */
export function Splitter({
  of,
  onWidth,
}: {
  readonly of: Column;
  readonly onWidth: (column: Column, pixels: number) => void;
}) {
  // The column at the right side grows to the left.
  const grows = of === "files" ? 1 : -1;
  const widthNow = (): number =>
    document.querySelector(of === "files" ? ".tree" : ".side")?.getBoundingClientRect().width ?? NARROWEST;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a rule between two parts that can be moved has no element of its own
    <div
      class={`splitter of-${of}`}
      role="separator"
      aria-orientation="vertical"
      aria-label={of === "files" ? "Width of the files" : "Width of the editor"}
      aria-valuenow={Math.round(widthNow())}
      tabIndex={0}
      onKeyDown={(event) => {
        const step = event.key === "ArrowRight" ? grows : event.key === "ArrowLeft" ? -grows : 0;
        if (step === 0) return;
        event.preventDefault();
        onWidth(of, widthNow() + step * STEP);
      }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        event.preventDefault();
      }}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        onWidth(of, of === "files" ? event.clientX : innerWidth - event.clientX);
      }}
    />
  );
}
