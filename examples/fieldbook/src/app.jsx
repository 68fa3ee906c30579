import { lazy, Suspense } from "preact/compat";
import { useEffect, useRef, useState } from "preact/hooks";
import { Birds } from "./birds.jsx";

// Parts that not everybody opens are loaded when somebody does.
const Bird = lazy(() => import("./bird.jsx"));
const Sightings = lazy(() => import("./sightings.jsx"));

const ROUTES = [
  [/^\/$/, "Birds", Birds],
  [/^\/birds\/([\w-]+)$/, "A bird", Bird],
  [/^\/sightings$/, "Sightings", Sightings],
];

function findRoute(path) {
  for (const [pattern, title, Page] of ROUTES) {
    const match = pattern.exec(path);
    if (match !== null) return { title, Page, name: match[1] };
  }
  return { title: "No such page", Page: NoSuchPage, name: undefined };
}

function NoSuchPage() {
  return (
    <>
      <h1>No such page</h1>
      <p>
        The fieldbook has no page here. <a href="/">See all birds.</a>
      </p>
    </>
  );
}

export function App() {
  const [path, setPath] = useState(location.pathname);
  const main = useRef(null);
  useEffect(() => {
    const onMove = () => setPath(location.pathname);
    const onClick = (event) => {
      const link = event.target.closest("a");
      const isOwn = link !== null && link.origin === location.origin && !link.pathname.includes(".");
      if (!isOwn || event.defaultPrevented || event.metaKey || event.ctrlKey || event.shiftKey) return;
      event.preventDefault();
      history.pushState(null, "", link.href);
      setPath(location.pathname);
      main.current.focus();
    };
    addEventListener("popstate", onMove);
    document.addEventListener("click", onClick);
    return () => {
      removeEventListener("popstate", onMove);
      document.removeEventListener("click", onClick);
    };
  }, []);
  const { title, Page, name } = findRoute(path);
  useEffect(() => {
    document.title = `${title} · Fieldbook`;
  }, [title]);
  const link = (href, text) => (
    <a href={href} aria-current={path === href ? "page" : undefined}>
      {text}
    </a>
  );
  return (
    <>
      <header>
        <a class="name" href="/">
          Fieldbook
        </a>
        <nav aria-label="Main">
          {link("/", "Birds")} {link("/sightings", "Sightings")}
        </nav>
      </header>
      <main tabIndex={-1} ref={main}>
        <Suspense fallback={<p>Opening …</p>}>
          <Page name={name} key={path} />
        </Suspense>
      </main>
    </>
  );
}
