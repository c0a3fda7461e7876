import { createRootRoute, createRoute, createRouter, lazyRouteComponent } from "@tanstack/react-router";
import { parts, type About } from "../core/help/topics";
import { readRunSearch } from "../core/runs/runSearch";
import { ChainsPage } from "../pages/ChainsPage";
import { HomePage } from "../pages/HomePage";
import { LanesPage } from "../pages/LanesPage";
import { NotFound } from "../pages/NotFound";
import { RunsPage } from "../pages/RunsPage";
import { Shell } from "./Shell";

// Pages with a drawing, and the editor, are loaded when somebody opens one.
const root = createRootRoute({ component: Shell, notFoundComponent: NotFound });

const home = createRoute({ getParentRoute: () => root, path: "/", component: HomePage });
const chains = createRoute({ getParentRoute: () => root, path: "/chains", component: ChainsPage });
const chain = createRoute({
  getParentRoute: () => root,
  path: "/chains/$name",
  component: lazyRouteComponent(() => import("../pages/ChainPage"), "ChainPage"),
  validateSearch: (search: Record<string, unknown>): { do?: "start" } => ({
    do: search.do === "start" ? "start" : undefined,
  }),
});
const history = createRoute({
  getParentRoute: () => root,
  path: "/chains/$name/history",
  component: lazyRouteComponent(() => import("../pages/HistoryPage"), "HistoryPage"),
  validateSearch: (search: Record<string, unknown>): { step?: string; most?: number } => ({
    step: typeof search.step === "string" ? search.step : undefined,
    most: typeof search.most === "number" ? search.most : undefined,
  }),
});
const difference = createRoute({
  getParentRoute: () => root,
  path: "/runs/$id/difference",
  component: lazyRouteComponent(() => import("../pages/DifferencePage"), "DifferencePage"),
  validateSearch: (search: Record<string, unknown>): { with?: number } => ({
    with: typeof search.with === "number" ? search.with : undefined,
  }),
});
const design = createRoute({
  getParentRoute: () => root,
  path: "/chains/$name/design",
  component: lazyRouteComponent(() => import("../pages/DesignerPage")),
  validateSearch: (search: Record<string, unknown>): { from?: string; step?: string } => ({
    from: typeof search.from === "string" ? search.from : undefined,
    step: typeof search.step === "string" ? search.step : undefined,
  }),
});
const runs = createRoute({
  getParentRoute: () => root,
  path: "/runs",
  component: RunsPage,
  validateSearch: readRunSearch,
});
const triggers = createRoute({
  getParentRoute: () => root,
  path: "/triggers",
  component: lazyRouteComponent(() => import("../pages/TriggersPage"), "TriggersPage"),
  validateSearch: (search: Record<string, unknown>): { name?: string; view?: "week" } => ({
    name: typeof search.name === "string" ? search.name : undefined,
    view: search.view === "week" ? "week" : undefined,
  }),
});
const lanes = createRoute({ getParentRoute: () => root, path: "/lanes", component: LanesPage });
const nodes = createRoute({
  getParentRoute: () => root,
  path: "/nodes",
  component: lazyRouteComponent(() => import("../pages/NodesPage"), "NodesPage"),
});
const connections = createRoute({
  getParentRoute: () => root,
  path: "/connections",
  component: lazyRouteComponent(() => import("../pages/ConnectionsPage"), "ConnectionsPage"),
});
const files = createRoute({
  getParentRoute: () => root,
  path: "/files",
  component: lazyRouteComponent(() => import("../pages/FilesPage"), "FilesPage"),
});
const file = createRoute({
  getParentRoute: () => root,
  path: "/files/edit",
  component: lazyRouteComponent(() => import("../pages/FilePage"), "FilePage"),
  validateSearch: (
    search: Record<string, unknown>,
  ): { path: string; view?: "form" | "text" | "versions"; entry?: string } => ({
    path: typeof search.path === "string" ? search.path : "",
    view: search.view === "form" || search.view === "text" || search.view === "versions" ? search.view : undefined,
    entry: typeof search.entry === "string" ? search.entry : undefined,
  }),
});
const data = createRoute({
  getParentRoute: () => root,
  path: "/data",
  component: lazyRouteComponent(() => import("../pages/DataPage"), "DataPage"),
  validateSearch: (search: Record<string, unknown>): { name?: string } => ({
    name: typeof search.name === "string" ? search.name : undefined,
  }),
});
const keeping = createRoute({
  getParentRoute: () => root,
  path: "/keeping",
  component: lazyRouteComponent(() => import("../pages/KeepingPage"), "KeepingPage"),
});
const help = createRoute({
  getParentRoute: () => root,
  path: "/help",
  component: lazyRouteComponent(() => import("../pages/HelpPage"), "HelpPage"),
  validateSearch: (search: Record<string, unknown>): { about?: About; find?: string } => ({
    about: parts.find((p) => p.about === search.about)?.about,
    find: typeof search.find === "string" ? search.find : undefined,
  }),
});
const signIn = createRoute({
  getParentRoute: () => root,
  path: "/sign-in",
  component: lazyRouteComponent(() => import("../pages/SignInPage"), "SignInPage"),
  validateSearch: (search: Record<string, unknown>): { back?: string; refused?: string } => ({
    // An address of the console, and of nothing else.
    back: typeof search.back === "string" && /^\/(?![/\\])/.test(search.back) ? search.back : undefined,
    refused: typeof search.refused === "string" ? search.refused : undefined,
  }),
});
const welcome = createRoute({
  getParentRoute: () => root,
  path: "/welcome",
  component: lazyRouteComponent(() => import("../pages/WelcomePage"), "WelcomePage"),
});
const device = createRoute({
  getParentRoute: () => root,
  path: "/device",
  component: lazyRouteComponent(() => import("../pages/DevicePage"), "DevicePage"),
  validateSearch: (search: Record<string, unknown>): { code?: string } => ({
    code: typeof search.code === "string" ? search.code : undefined,
  }),
});
const profile = createRoute({
  getParentRoute: () => root,
  path: "/profile",
  component: lazyRouteComponent(() => import("../pages/ProfilePage"), "ProfilePage"),
});
const access = createRoute({
  getParentRoute: () => root,
  path: "/access",
  component: lazyRouteComponent(() => import("../pages/AccessPage"), "AccessPage"),
  validateSearch: (search: Record<string, unknown>): { tab?: "tokens" | "rules" | "sign-in" | "audit" } => ({
    tab:
      search.tab === "tokens" || search.tab === "rules" || search.tab === "sign-in" || search.tab === "audit"
        ? search.tab
        : undefined,
  }),
});
const run = createRoute({
  getParentRoute: () => root,
  path: "/runs/$id",
  component: lazyRouteComponent(() => import("../pages/RunPage"), "RunPage"),
  validateSearch: (
    search: Record<string, unknown>,
  ): { step?: string; leg?: number; moment?: number; do?: "resume" } => ({
    step: typeof search.step === "string" ? search.step : undefined,
    leg: typeof search.leg === "number" ? search.leg : undefined,
    moment: typeof search.moment === "number" ? search.moment : undefined,
    do: search.do === "resume" ? "resume" : undefined,
  }),
});

export const router = createRouter({
  routeTree: root.addChildren([
    home,
    chains,
    chain,
    history,
    design,
    runs,
    run,
    difference,
    triggers,
    lanes,
    nodes,
    connections,
    files,
    file,
    data,
    keeping,
    help,
    signIn,
    welcome,
    device,
    profile,
    access,
  ]),
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
