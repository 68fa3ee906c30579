import { useEffect, useState } from "preact/hooks";
import type { Found, LabConnection, TreeEntry, TreeFolder } from "../src/lab/shapes.js";
import { formatBytes } from "./format.js";

interface Props {
  readonly connection: LabConnection;
  readonly mounts: readonly { readonly at: string; readonly source: string }[];
  /** Another one where something changed on disk. */
  readonly version: number;
  readonly target: string;
  readonly onOpen: (target: string) => void;
}

/** The files as visitors get them: every name that is there, with what becomes of it. */
export function Tree({ connection, mounts, version, target, onOpen }: Props) {
  const [text, setText] = useState("");
  const [found, setFound] = useState<Found>();
  useEffect(() => {
    if (text.trim() === "") return setFound(undefined);
    let isLate = false;
    const search = (): void => {
      connection.search(text).then(
        (next) => {
          if (isLate) return;
          setFound(next);
          // Names are still being read.
          if (next.isPartial) timer = setTimeout(search, 300);
        },
        () => setFound(undefined),
      );
    };
    let timer = setTimeout(search, 60);
    return () => {
      isLate = true;
      clearTimeout(timer);
    };
  }, [connection, text, version]);
  return (
    <aside class="tree" aria-label="Files" onKeyDown={found === undefined ? undefined : moveByArrows}>
      <label>
        Search
        <input
          id="search"
          accesskey="f"
          type="search"
          value={text}
          onInput={({ currentTarget }) => setText(currentTarget.value)}
        />
      </label>
      {found === undefined ? (
        mounts.map(({ at, source }, index) => (
          <section key={at}>
            <h2>
              <button type="button" onClick={() => onOpen(at === "/" ? "/" : `${at}/`)}>
                {at}
              </button>{" "}
              <small>{source}</small>
            </h2>
            <Folder
              connection={connection}
              mount={index}
              path=""
              version={version}
              target={target}
              onOpen={onOpen}
            />
          </section>
        ))
      ) : (
        <Results found={found} target={target} onOpen={onOpen} />
      )}
    </aside>
  );
}

function Results({ found, target, onOpen }: { readonly found: Found } & Pick<Props, "target" | "onOpen">) {
  const { addresses, total, isPartial } = found;
  return (
    <>
      <p class="quiet" role="status">
        {total === 0 ? "Nothing" : total > addresses.length ? `${addresses.length} of ${total}` : total}
        {isPartial ? "; still reading" : ""}
      </p>
      <ul>
        {addresses.map((address) => (
          <li key={address}>
            <button type="button" aria-current={address === target} onClick={() => onOpen(address)}>
              {readable(address)}
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

// From the search to what it found, up and down.
function moveByArrows(event: KeyboardEvent): void {
  const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
  if (step === 0) return;
  const places = [
    ...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>("#search, ul > li > button"),
  ];
  const next = places[places.indexOf(document.activeElement as HTMLElement) + step];
  if (next === undefined) return;
  event.preventDefault();
  next.focus();
}

interface FolderProps extends Pick<Props, "connection" | "version" | "target" | "onOpen"> {
  readonly mount: number;
  readonly path: string;
}

function Folder({ connection, mount, path, version, target, onOpen }: FolderProps) {
  const [folder, setFolder] = useState<TreeFolder>();
  useEffect(() => {
    connection.folder(mount, path).then(setFolder, () => setFolder({ entries: [], more: 0 }));
  }, [connection, mount, path, version]);
  if (folder === undefined) return <p class="quiet">…</p>;
  return (
    <ul>
      {folder.entries.map((entry) => (
        <Entry
          key={entry.name}
          entry={entry}
          connection={connection}
          mount={mount}
          path={path === "" ? entry.name : `${path}/${entry.name}`}
          version={version}
          target={target}
          onOpen={onOpen}
        />
      ))}
      {folder.more > 0 && <li class="quiet">and {folder.more} more: search for them</li>}
      {folder.entries.length === 0 && <li class="quiet">nothing here</li>}
    </ul>
  );
}

function Entry({ entry, target, onOpen, ...place }: FolderProps & { readonly entry: TreeEntry }) {
  const { name, kind, address, state, because, isArea, sizeBytes } = entry;
  const [isOpen, setOpen] = useState(kind === "directory" && decode(target).startsWith(decode(address)));
  const isFolder = kind === "directory";
  return (
    <li class={`${kind} ${state.replaceAll(" ", "-")}`}>
      <span class="row">
        {isFolder ? (
          <button
            type="button"
            class="fold"
            aria-expanded={isOpen}
            aria-label={`Contents of ${name}`}
            onClick={() => setOpen(!isOpen)}
          />
        ) : (
          <span class="fold" />
        )}
        <button
          type="button"
          aria-current={address === target}
          title={because}
          onClick={() => onOpen(address)}
        >
          {name}
          {isFolder ? "/" : ""}
        </button>
        {state !== "served" && (
          <span class="state" title={because}>
            {state}
          </span>
        )}
        {isArea && state === "served" && <span class="own">rules of its own</span>}
        {!isFolder && state === "served" && <span class="size">{formatBytes(sizeBytes)}</span>}
      </span>
      {isOpen && <Folder {...place} target={target} onOpen={onOpen} />}
    </li>
  );
}

function decode(address: string): string {
  try {
    return decodeURI(address);
  } catch {
    return address;
  }
}

const readable = decode;
