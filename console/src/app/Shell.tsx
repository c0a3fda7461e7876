import { ActionIcon, useComputedColorScheme, useMantineColorScheme } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useRouter } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useState, useSyncExternalStore } from "react";
import { isTyping, placeOf } from "../core/help/place";
import { connection } from "../core/live/streams";
import { ServiceNotice } from "../parts/page/ServiceNotice";
import { bridgeLiveEvents } from "../queries/liveBridge";

const GoTo = lazy(() => import("./GoTo"));

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
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "?" && !event.ctrlKey && !event.metaKey && !isTyping(event.target)) {
        event.preventDefault();
        void router.navigate({ to: "/help", search: placeOf(router.state.location.pathname) });
        return;
      }
      if (event.key.toLowerCase() !== "k" || !(event.ctrlKey || event.metaKey) || event.shiftKey || event.altKey)
        return;
      event.preventDefault();
      setGoing((is) => !is);
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
          <button type="button" className="goto" aria-haspopup="dialog" onClick={() => setGoing(true)}>
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
          <GoTo close={() => setGoing(false)} />
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
