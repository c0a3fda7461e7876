import { Button } from "@mantine/core";
import { remove, setKey } from "../../../core/designer/operations";
import { bandTitle, occasionOf, occasions } from "../../../core/graph/bands";
import { PlainField } from "../fields/PlainField";
import { useValue } from "../fields/useValue";
import { useDesign, useDesigning } from "../useDesign";

/** Everything about the chosen handler. */
export function HandlerInspector({ band }: { band: string }) {
  const { store } = useDesigning();
  const { design, selection } = useDesign(store);
  const occasion = occasionOf(band);
  const steps = design.scopes.get(band)?.steps ?? [];
  return (
    <>
      <div className="inspecthead">
        <span className="kindword">handler</span>
        <span className="mono idword">{occasion}</span>
      </div>
      <h2 className="handlertitle">{bandTitle(occasion)}</h2>
      <p className="says">{occasions.find((o) => o.name === occasion)?.about}</p>
      {(occasion === "late" || occasion === "endangered") && <DueIn />}
      <p className="soft small">
        Its steps see what the chain's own steps gave, the variables, <code>error</code> (the first failure) and{" "}
        <code>run.outcome</code>. A failure in a handler is a warning: it changes no outcome.
      </p>
      <p className="small">
        {steps.length === 0
          ? "It has no steps yet: press A on the canvas, or drag a kind of step into the band."
          : `It has ${steps.length === 1 ? "one step" : `${String(steps.length)} steps`}.`}
      </p>
      <div className="inspectfoot">
        <Button size="compact-xs" variant="subtle" color="red" onClick={() => store.apply(remove(design, selection))}>
          Remove the handler{steps.length > 0 ? " and its steps" : ""}
        </Button>
      </div>
    </>
  );
}

/** A run is late only where the chain says after what time. */
function DueIn() {
  const { store } = useDesigning();
  const [due] = useValue(["dueIn"]);
  return (
    <PlainField
      label="It is late after"
      description="The longest a run may take, for example 2h30m. Without it this handler never runs, but for a trigger's due time."
      value={String((due as string | undefined) ?? "")}
      commit={(text) =>
        store.apply(setKey(store.state.design, ["dueIn"], text.trim() === "" ? undefined : text.trim()))
      }
    />
  );
}
