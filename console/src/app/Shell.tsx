import { ActionIcon, useComputedColorScheme, useMantineColorScheme } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link, Outlet } from "@tanstack/react-router";
import { useEffect, useSyncExternalStore } from "react";
import { connection } from "../core/live/streams";
import { ServiceNotice } from "../parts/page/ServiceNotice";
import { bridgeLiveEvents } from "../queries/liveBridge";

const pages = [
  { to: "/", name: "Home" },
  { to: "/chains", name: "Chains" },
  { to: "/runs", name: "Runs" },
  { to: "/triggers", name: "Triggers" },
  { to: "/lanes", name: "Lanes" },
  { to: "/connections", name: "Connections" },
] as const;

/** The bar on top, the page below; keeps the lists fresh. */
export function Shell() {
  const connected = useSyncExternalStore(connection.subscribe, () => connection.connected);
  const queries = useQueryClient();
  useEffect(() => bridgeLiveEvents(queries), [queries]);
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
          <Link to="/help" className="helplink" activeProps={{ className: "helplink active" }}>
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
