import { useCallback, useEffect, useRef, useState } from "preact/hooks";
import type { Beam, CaseOutcome, LabConnection, LabInfo, LabQuestion, Watched } from "../src/lab/shapes.js";
import { type AddressState, readAddress, type Side, writeAddress } from "./address-state.js";
import { AnswerView } from "./answer-view.js";
import { AskForm } from "./ask-form.js";
import { BeamView } from "./beam-view.js";
import { DraftBeam, useDraftBeam } from "./draft-beam.js";
import { SidePanel } from "./side-panel.js";
import { Splitter, useWidths } from "./splitter.js";
import { Tree } from "./tree.js";

/** How many requests are shown. */
const REQUESTS_AT_MOST = 200;

/** Where the keyboard skips to, by what it is called. */
const PLACES = {
  address: "#address",
  files: "#search",
  editor: ".side [role=tabpanel]:not([hidden]) .cm-content",
};

type Pane = "files" | "answer" | "side";

/** The page: files to the left, the question and the beam over everything, what hangs from it below, and what can be changed beside it. */
export function Lab({ connection }: { readonly connection: LabConnection }) {
  const [info, setInfo] = useState<LabInfo>();
  const [state, setState] = useState<AddressState>(() => readAddress(location.hash));
  const [beam, setBeam] = useState<Beam>();
  const [problem, setProblem] = useState("");
  const [failure, setFailure] = useState<CaseOutcome>();
  const [pane, setPane] = useState<Pane>("answer");
  const { widths, setWidth } = useWidths();
  const [requests, setRequests] = useState<readonly Watched[]>([]);
  const [isThere, setThere] = useState(true);
  /** Counts what changed on disk: what shows files reads them again. */
  const [version, setVersion] = useState(0);
  const [position, setPosition] = useState<{ line: number; turn: number }>();
  /** A configuration that is not saved, and could be. */
  const [draft, setDraft] = useState<string>();
  const [showsDraft, setShowsDraft] = useState(false);

  const load = useCallback(() => {
    connection.info().then(setInfo, (error: Error) => setProblem(error.message));
  }, [connection]);
  const { question } = state;
  const draftBeam = useDraftBeam(connection, question, { draft, version });
  const turn = useRef(0);
  const ask = useCallback(() => {
    // An answer that comes late must not take the place of a newer one.
    const own = ++turn.current;
    connection.ask(question).then(
      (answer) => {
        if (own !== turn.current) return;
        setBeam(answer);
        setProblem("");
      },
      (error: Error) => own === turn.current && setProblem(error.message),
    );
  }, [connection, question]);
  const go = useCallback((next: Partial<AddressState>) => {
    setState((before) => {
      const now = { ...before, ...next };
      const written = writeAddress(now);
      if (written !== location.hash) history.pushState(null, "", written);
      return now;
    });
  }, []);

  useEffect(load, [load]);
  useEffect(ask, [ask]);
  // The page asks something else by now than when the watch began.
  const follow = useRef(() => {});
  follow.current = () => {
    setVersion((before) => before + 1);
    load();
    ask();
  };
  useEffect(() => {
    let wasThere = true;
    return connection.watch({
      onRequest: (watched) =>
        setRequests((before) =>
          [watched, ...before.filter(({ id }) => id !== watched.id)].slice(0, REQUESTS_AT_MOST),
        ),
      onChanged: () => follow.current(),
      onConnection(now) {
        setThere(now);
        if (now && !wasThere) follow.current();
        wasThere = now;
      },
    });
  }, [connection]);
  useEffect(() => {
    const onMove = (): void => setState(readAddress(location.hash));
    addEventListener("popstate", onMove);
    return () => removeEventListener("popstate", onMove);
  }, []);

  const onAsk = (asked: LabQuestion, failed?: CaseOutcome): void => {
    setFailure(failed);
    go({ question: asked, stage: "" });
    setPane("answer");
  };
  const showLine = (line: number): void => {
    go({ side: "configuration" });
    setPane("side");
    setPosition({ line, turn: Date.now() });
  };

  return (
    <div class={`lab shows-${pane}`} style={widths}>
      <nav class="skip" aria-label="Skip to">
        {Object.entries(PLACES).map(([name, selector]) => (
          <button
            type="button"
            onClick={() => document.querySelector<HTMLElement>(selector)?.focus()}
            key={name}
          >
            {name}
          </button>
        ))}
      </nav>
      {!isThere && (
        <p class="problem gone" role="alert">
          The lab does not answer. What you typed is kept in this browser. Start the lab again, and open the
          address that it prints.
        </p>
      )}
      <header class="top">
        <h1>
          Epistyle lab <span>{info?.about}</span>
        </h1>
        {info?.address !== undefined && (
          <a
            href={info.address + question.target.replace(/^\//, "")}
            target="epistyle-site"
            rel="noopener noreferrer"
            onClick={(event) => {
              // Beside this window, so that what is visited shows among the requests.
              open(event.currentTarget.href, "_blank", "popup,noopener,noreferrer,width=720,height=800");
              event.preventDefault();
              go({ side: "requests" });
            }}
          >
            Open this address of the site
          </a>
        )}
        <nav aria-label="Parts of the page" class="panes">
          {(["files", "answer", "side"] as const).map((one) => (
            <button type="button" aria-pressed={pane === one} onClick={() => setPane(one)} key={one}>
              {one === "side" ? "change" : one}
            </button>
          ))}
        </nav>
      </header>
      <Tree
        connection={connection}
        mounts={info?.mounts ?? []}
        version={version}
        target={question.target}
        onOpen={(target) => onAsk({ ...question, target, method: "GET" })}
      />
      <main>
        <Splitter of="files" onWidth={setWidth} />
        <Splitter of="side" onWidth={setWidth} />
        <div class="over">
          <AskForm question={question} onAsk={onAsk} />
          {problem !== "" && (
            <p class="problem" role="alert">
              {problem}
            </p>
          )}
          {beam !== undefined && (
            <BeamView
              beam={beam}
              name="now"
              failure={failure}
              open={state.stage}
              onOpen={(stage) => go({ stage })}
              onLine={showLine}
            />
          )}
          {beam !== undefined && draftBeam !== undefined && (
            <DraftBeam
              now={beam}
              draft={draftBeam}
              isShown={showsDraft}
              onShow={setShowsDraft}
              onLine={showLine}
            />
          )}
        </div>
        {beam !== undefined && (
          <AnswerView
            beam={(showsDraft ? draftBeam : undefined) ?? beam}
            onLine={showLine}
            onTarget={(target) => onAsk({ ...question, target })}
            expect={
              info?.expectations === undefined
                ? undefined
                : () => {
                    go({ side: "expectations" });
                    setPane("side");
                    return connection.draftCase(question);
                  }
            }
          />
        )}
      </main>
      {info !== undefined && (
        <SidePanel
          connection={connection}
          info={info}
          requests={requests}
          side={state.side}
          position={position}
          onSide={(side: Side) => go({ side })}
          onAsk={onAsk}
          onSaved={() => follow.current()}
          onDraft={setDraft}
        />
      )}
    </div>
  );
}
