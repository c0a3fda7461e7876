import { createRootRoute, createRoute, createRouter, redirect } from "@tanstack/react-router";
import { ChainPage } from "../pages/ChainPage";
import { ChainsPage } from "../pages/ChainsPage";
import { LanesPage } from "../pages/LanesPage";
import { NotFound } from "../pages/NotFound";
import { RunPage } from "../pages/RunPage";
import { RunsPage } from "../pages/RunsPage";
import { Shell } from "./Shell";

const root = createRootRoute({ component: Shell, notFoundComponent: NotFound });

const home = createRoute({
  getParentRoute: () => root,
  path: "/",
  beforeLoad: () => {
    throw redirect({ to: "/chains" });
  },
});
const chains = createRoute({ getParentRoute: () => root, path: "/chains", component: ChainsPage });
const chain = createRoute({ getParentRoute: () => root, path: "/chains/$name", component: ChainPage });
const runs = createRoute({
  getParentRoute: () => root,
  path: "/runs",
  component: RunsPage,
  validateSearch: (search: Record<string, unknown>): { chain?: string; state?: string } => ({
    chain: typeof search.chain === "string" ? search.chain : undefined,
    state: typeof search.state === "string" ? search.state : undefined,
  }),
});
const lanes = createRoute({ getParentRoute: () => root, path: "/lanes", component: LanesPage });
const run = createRoute({
  getParentRoute: () => root,
  path: "/runs/$id",
  component: RunPage,
  validateSearch: (search: Record<string, unknown>): { step?: string; leg?: number } => ({
    step: typeof search.step === "string" ? search.step : undefined,
    leg: typeof search.leg === "number" ? search.leg : undefined,
  }),
});

export const router = createRouter({ routeTree: root.addChildren([home, chains, chain, runs, run, lanes]) });

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
