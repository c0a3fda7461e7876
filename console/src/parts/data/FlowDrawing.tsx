import { Link } from "@tanstack/react-router";
import { columnsOf, type FlowColumn, type FlowPlace } from "../../core/lineage/flows";
import type { LineageInfo } from "../../core/api/types";

/** Where some data come from and go, left to right; each place says through which steps. */
export function FlowDrawing({ found }: { found: LineageInfo }) {
  const columns = columnsOf(found);
  return (
    <div className="flow" tabIndex={0} role="group" aria-label="Where the data come from and go">
      {columns.map((column) => (
        <div className="flowcolumn" key={column.distance} data-middle={column.distance === 0 || undefined}>
          <h2>{titleOf(column)}</h2>
          {column.places.map((place) => (
            <Place key={place.name} place={place} distance={column.distance} />
          ))}
        </div>
      ))}
    </div>
  );
}

function titleOf({ distance }: FlowColumn): string {
  if (distance === 0) return "this";
  if (distance === -1) return "comes from";
  if (distance === 1) return "goes into";
  return distance < 0 ? `${String(-distance)} steps before` : `${String(distance)} steps on`;
}

function Place({ place, distance }: { place: FlowPlace; distance: number }) {
  const steps = (
    <div className="flowsteps small">
      {place.through.map(({ chain, step }) => (
        <Link key={`${chain} ${step}`} to="/chains/$name/design" params={{ name: chain }} search={{ step }}>
          {distance < 0 ? "" : "→ "}
          {chain}, {step}
          {distance < 0 ? " →" : ""}
        </Link>
      ))}
    </div>
  );
  return (
    <div className="flowplace" data-form={place.form}>
      {distance > 0 && steps}
      {distance === 0 ? (
        <strong className="mono">{place.name}</strong>
      ) : (
        <Link className="mono" to="/data" search={{ name: place.name }}>
          {place.name}
        </Link>
      )}
      {distance < 0 && steps}
    </div>
  );
}
