import { ActionIcon, Menu, useComputedColorScheme, useMantineColorScheme } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useRouter, useRouterState } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useRef, useState, useSyncExternalStore } from "react";
import { may, roleWords } from "../core/access/may";
import { signedOut } from "../core/access/signedOut";
import { signOut } from "../core/api/access";
import type { SessionInfo } from "../core/api/types";
import { isTyping, placeOf } from "../core/help/place";
import { connection } from "../core/live/streams";
import { PageWithout } from "../parts/page/Page";
import { ServiceNotice } from "../parts/page/ServiceNotice";
import { sessionQuery } from "../queries/access";
import { healthQuery } from "../queries/service";
import { bridgeLiveEvents } from "../queries/liveBridge";
import { act } from "./act";

const SignInAgain = lazy(() => import("../parts/access/SignInAgain"));
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
  { to: "/data", name: "Data" },
] as const;

const nodesPage = { to: "/nodes", name: "Nodes" } as const;
const keeperPages = [
  { to: "/keeping", name: "Keeping" },
  { to: "/access", name: "Access" },
] as const;

/** What is shown to who has not signed in, without the bar. */
const doorways = ["/sign-in", "/welcome"];

/** Nobody sees a page before it is known who they are; where nobody signs in, that is at once. */
export function Shell() {
  const router = useRouter();
  const path = useRouterState({ select: (s) => s.location.pathname });
  const { data: session, error } = useQuery(sessionQuery);
  const queries = useQueryClient();
  const [ended, setEnded] = useState<SessionInfo | null>(null);
  const isDoorway = doorways.includes(path);
  useEffect(
    () =>
      signedOut.subscribe(() => {
        const was = queries.getQueryData(sessionQuery.queryKey);
        // Who was signed in goes on where they were; a token or a new role is another matter.
        if (was?.name != null) setEnded((e) => e ?? was);
        else void queries.invalidateQueries({ queryKey: sessionQuery.queryKey });
      }),
    [queries],
  );
  const isOut = session?.state === "signed-out" || session?.state === "first-start";
  useEffect(() => {
    if (isDoorway) return;
    if (isOut) void router.navigate({ to: "/sign-in", search: { back: router.state.location.href }, replace: true });
    else if (session?.state === "needs-codes" && path !== "/profile")
      void router.navigate({ to: "/profile", replace: true });
  }, [isOut, isDoorway, router, session?.state, path]);
  if (isDoorway) return <Outlet />;
  if (error && !session) return <PageWithout title="Gate Chain" error={error} />;
  if (!session || isOut) return null;
  return (
    <>
      <Desk session={session} />
      {ended && (
        <Suspense>
          <SignInAgain was={ended} close={() => setEnded(null)} />
        </Suspense>
      )}
    </>
  );
}

/** The bar on top, the page below; keeps the lists fresh. */
function Desk({ session }: { session: SessionInfo }) {
  const connected = useSyncExternalStore(connection.subscribe, () => connection.connected);
  const queries = useQueryClient();
  const { data: health } = useQuery(healthQuery);
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
          {[
            ...pages,
            ...(health?.node == null ? [] : [nodesPage]),
            ...(may(session, "administer") ? keeperPages : []),
          ].map((page) => (
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
          {session.name != null && <ProfileMenu session={session} />}
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

function ProfileMenu({ session }: { session: SessionInfo }) {
  return (
    <Menu position="bottom-end" withinPortal>
      <Menu.Target>
        <button type="button" className="goto" aria-label={`Profile of ${session.name ?? ""}`}>
          {session.name}
        </button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>{session.roles.length === 0 ? "no role yet" : session.roles.map(roleWords).join(", ")}</Menu.Label>
        <Menu.Item renderRoot={(props) => <Link to="/profile" {...props} />}>Profile</Menu.Item>
        <Menu.Item
          onClick={() =>
            // Everything that was read is forgotten with the page.
            void act("You are still signed in", signOut).then(() => window.location.assign("/sign-in"))
          }
        >
          Sign out
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
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
