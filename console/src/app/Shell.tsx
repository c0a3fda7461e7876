import { ActionIcon, useComputedColorScheme, useMantineColorScheme } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useRouter } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useRef, useState, useSyncExternalStore } from "react";
import { isTyping, placeOf } from "../core/help/place";
import { connection } from "../core/live/streams";
import { ServiceNotice } from "../parts/page/ServiceNotice";
import { bridgeLiveEvents } from "../queries/liveBridge";

const loadGoTo = () => import("./GoTo");
const GoTo = lazy(loadGoTo);

/** What was typed since it was asked for, before it was there. */
let early = "";
const earlyText = () => early;

const pages = [
  { to: "/", name: "Home" },
  { to: "/chains", name: "Chains" },
  { to: "/runs", name: "Runs" },
  { to: "/triggers", name: "Triggers" },
  { to: "/lanes", name: "Lanes" },
  { to: "/connections", name: "Connections" },
  { to: "/files", name: "Files" },
] as const;

/** The bar on top, the page below; keeps the lists fresh. */
export function Shell() {
  const connected = useSyncExternalStore(connection.subscribe, () => connection.connected);
  const queries = useQueryClient();
  useEffect(() => bridgeLiveEvents(queries), [queries]);
  const [going, setGoing] = useState(false);
  const router = useRouter();
  const waiting = useRef(false);
  useEffect(() => {
    // Soon enough for whoever wants it, late enough for the page.
    const timer = setTimeout(() => void loadGoTo(), 1500);
    return () => clearTimeout(timer);
  }, []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (waiting.current && !isTyping(event.target) && event.key.length === 1 && !event.ctrlKey && !event.metaKey) {
        event.preventDefault();
        early += event.key;
        return;
      }
      if (event.key === "?" && !event.ctrlKey && !event.metaKey && !isTyping(event.target)) {
        event.preventDefault();
        void router.navigate({ to: "/help", search: placeOf(router.state.location.pathname) });
        return;
      }
      if (event.key.toLowerCase() !== "k" || !(event.ctrlKey || event.metaKey) || event.shiftKey || event.altKey)
        return;
      event.preventDefault();
      early = "";
      waiting.current = !waiting.current;
      setGoing(waiting.current);
    };
    window.addEventListener("keydown", onKey, true);
    return () => window.removeEventListener("keydown", onKey, true);
  }, [router]);
  return (
    <div className="shell">
      <nav className="bar" aria-label="Gate Chain">
        <Link to="/" className="name">
          <img src="/mark.svg" width={24} height={24} alt="" /> Gate Chain
        </Link>
        <div className="pages">
          {pages.map((page) => (
            <Link
              key={page.to}
              to={page.to}
              activeOptions={{ exact: page.to === "/" }}
              activeProps={{ className: "active" }}
            >
              {page.name}
            </Link>
          ))}
        </div>
        <div className="rest">
          <span role="status">{!connected && <span className="lost">↯ Connection lost; trying again</span>}</span>
          <button
            type="button"
            className="goto"
            aria-haspopup="dialog"
            onClick={() => {
              early = "";
              waiting.current = true;
              setGoing(true);
            }}
          >
            Go to … <kbd>Ctrl K</kbd>
          </button>
          <Link to="/help" className="helplink" activeProps={{ className: "helplink active" }} title="Help (?)">
            Help
          </Link>
          <SchemeSwitch />
        </div>
      </nav>
      <div>
        <ServiceNotice />
      </div>
      <main>
        <Outlet />
      </main>
      {going && (
        <Suspense>
          <GoTo
            typed={earlyText}
            close={() => {
              waiting.current = false;
              setGoing(false);
            }}
          />
        </Suspense>
      )}
    </div>
  );
}

function SchemeSwitch() {
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme("light");
  const other = scheme === "light" ? "dark" : "light";
  return (
    <ActionIcon
      variant="subtle"
      aria-label={`Switch to ${other} colours`}
      title={`Switch to ${other} colours`}
      onClick={() => setColorScheme(other)}
    >
      {scheme === "light" ? "☾" : "☀"}
    </ActionIcon>
  );
}
