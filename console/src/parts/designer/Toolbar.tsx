import { ActionIcon, Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import type { DesignState } from "../../core/designer/DesignStore";
import type { Dialog } from "./dialogs/DesignDialogs";
import { useDesigning } from "./useDesign";
import type { Modes } from "./useModes";
import { releasesQuery } from "../../queries/chains";

const savedWords: Record<DesignState["saved"], string> = {
  saved: "✓ saved",
  waiting: "… saving",
  saving: "… saving",
  lost: "↯ not saved: no connection; it is kept here and saved when the service is back",
  conflict: "⨯ not saved: changed by somebody else",
  refused: "⨯ not saved",
};

/** The line above the designer: where one is, whether it is saved, and what can be done. */
export function Toolbar({
  state,
  modes,
  arrange,
  open,
}: {
  state: DesignState;
  modes: Modes;
  /** Null while less than two steps are chosen. */
  arrange: ((how: "left" | "top") => void) | null;
  open: (dialog: Dialog) => void;
}) {
  const { store } = useDesigning();
  const { from } = useSearch({ from: "/chains/$name/design" });
  const callers = from === undefined || from === "" ? [] : from.split("~");
  const { design } = state;
  const { data: releases } = useQuery(releasesQuery(store.chain));
  return (
    <div className="designhead">
      <nav aria-label="Where this is" className="crumbs">
        {callers.map((name, i) => (
          <span key={name}>
            <Link
              to="/chains/$name/design"
              params={{ name }}
              search={{ from: callers.slice(0, i).join("~") || undefined }}
            >
              {name}
            </Link>{" "}
            <span className="soft" aria-hidden>
              ›
            </span>{" "}
          </span>
        ))}
        <h1>
          {releases === undefined || releases.length === 0 ? (
            <span className="crumb" title="It has not been released yet">
              {design.title}
            </span>
          ) : (
            <Link
              to="/chains/$name"
              params={{ name: store.chain }}
              className="crumb"
              title="Look at its latest release"
            >
              {design.title}
            </Link>
          )}
        </h1>
      </nav>
      <span className="savedstate" role="status" data-saved={state.saved} title={state.trouble ?? undefined}>
        {savedWords[state.saved]}
        {state.saved === "refused" && `: ${state.trouble ?? ""}`}
      </span>
      <div className="rest">
        <ActionIcon
          variant="subtle"
          aria-label="Undo"
          title="Undo (Ctrl+Z)"
          disabled={!state.canUndo}
          onClick={() => store.undo()}
        >
          ↶
        </ActionIcon>
        <ActionIcon
          variant="subtle"
          aria-label="Redo"
          title="Redo (Ctrl+Y)"
          disabled={!state.canRedo}
          onClick={() => store.redo()}
        >
          ↷
        </ActionIcon>
        <Button size="compact-sm" variant="subtle" title="Find a step (Ctrl+F)" onClick={() => open({ name: "find" })}>
          Find
        </Button>
        <Button
          size="compact-sm"
          variant="subtle"
          title="Let the layout place every step again (T)"
          disabled={design.placed.size === 0}
          onClick={() => store.tidy()}
        >
          Tidy
        </Button>
        {arrange && (
          <Button size="compact-sm" variant="subtle" onClick={() => arrange("top")}>
            Align in a row
          </Button>
        )}
        {arrange && (
          <Button size="compact-sm" variant="subtle" onClick={() => arrange("left")}>
            Align in a column
          </Button>
        )}
        <Button
          size="compact-sm"
          variant={modes.mode === "rehearse" ? "light" : "default"}
          aria-pressed={modes.mode === "rehearse"}
          onClick={() => modes.toggle("rehearse")}
        >
          Rehearse
        </Button>
        <Button
          size="compact-sm"
          variant={modes.mode === "try" ? "light" : "default"}
          aria-pressed={modes.mode === "try"}
          onClick={() => modes.toggle("try")}
        >
          Try
        </Button>
        {releases !== undefined && releases[0] !== undefined && (
          <Button
            size="compact-sm"
            variant="default"
            title={`Starts a run of release ${String(releases[0].number)}${state.version > 0 ? ", which this draft is not" : ""}`}
            onClick={() => open({ name: "run" })}
          >
            {state.version > 0 ? `Run release ${String(releases[0].number)}…` : "Run…"}
          </Button>
        )}
        <Button size="compact-sm" onClick={() => open({ name: "release" })}>
          Release…
        </Button>
      </div>
    </div>
  );
}
