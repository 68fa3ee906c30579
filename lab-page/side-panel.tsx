import type { CaseOutcome, LabConnection, LabInfo, LabQuestion, Watched } from "../src/lab/shapes.js";
import type { Side } from "./address-state.js";
import { Configuration } from "./configuration.js";
import { Expectations } from "./expectations.js";
import { Requests } from "./requests.js";

interface Props {
  readonly connection: LabConnection;
  readonly info: LabInfo;
  readonly requests: readonly Watched[];
  readonly side: Side;
  readonly position: { readonly line: number; readonly turn: number } | undefined;
  readonly onSide: (side: Side) => void;
  readonly onAsk: (question: LabQuestion, failed?: CaseOutcome) => void;
  readonly onSaved: () => void;
  readonly onDraft: (text: string | undefined) => void;
}

/** What can be changed, expected and watched, beside the answer. All three stay as they are while another one is shown. */
export function SidePanel({ side, onSide, ...rest }: Props) {
  const { info } = rest;
  const sides: Side[] = [
    "configuration",
    ...(info.expectations === undefined ? [] : (["expectations"] as const)),
    ...(info.address === undefined ? [] : (["requests"] as const)),
  ];
  const shown = sides.includes(side) ? side : "configuration";
  return (
    <aside class="side" aria-label="Change, expect, watch">
      <div role="tablist" aria-label="Beside the answer">
        {sides.map((one, index) => (
          <button
            type="button"
            role="tab"
            key={one}
            id={`tab-${one}`}
            aria-selected={one === shown}
            aria-controls={`panel-${one}`}
            tabIndex={one === shown ? 0 : -1}
            onClick={() => onSide(one)}
            onKeyDown={(event) => {
              const step = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
              if (step === 0) return;
              const next = sides[(index + step + sides.length) % sides.length]!;
              onSide(next);
              document.querySelector<HTMLElement>(`#tab-${next}`)?.focus();
            }}
          >
            {one}
          </button>
        ))}
      </div>
      {sides.map((one) => (
        <div
          role="tabpanel"
          id={`panel-${one}`}
          aria-labelledby={`tab-${one}`}
          hidden={one !== shown}
          key={one}
        >
          {one === "configuration" && <Configuration {...rest} />}
          {one === "expectations" && <Expectations {...rest} />}
          {one === "requests" && <Requests {...rest} />}
        </div>
      ))}
    </aside>
  );
}
