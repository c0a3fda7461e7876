import type { ProfileInfo } from "../../core/api/types";
import { Link } from "@tanstack/react-router";
import { AreaNote } from "../page/AreaNote";
import { EmptyState } from "../page/EmptyState";

const keyOf = (profile: ProfileInfo) => `${profile.area ?? ""}/${profile.name}`;

/** The profiles side by side: what has another value, and what one of them has no. */
export function ProfileTable({ profiles }: { profiles: ProfileInfo[] }) {
  if (profiles.length === 0) {
    return (
      <EmptyState>
        There are no profiles. A profile is a set of values for one environment, read as <code>profile.name</code>.{" "}
        <Link to="/files/edit" search={{ path: "profiles.yaml" }}>
          Write profiles.yaml
        </Link>
        .
      </EmptyState>
    );
  }
  const names = [...new Set(profiles.flatMap((p) => Object.keys(p.values)))];
  return (
    <>
      <p className="soft small">
        Declared in <code>profiles.yaml</code>; in a folder of the workspace it says more, or other values, for the
        chains there. A run takes one; without a name the only one there is, or <code>default</code>.{" "}
        <Link to="/files/edit" search={{ path: "profiles.yaml" }}>
          Edit them
        </Link>
      </p>
      <div className="sheet scrolled" tabIndex={0} role="region" aria-label="Profiles side by side">
        <table className="dense">
          <thead>
            <tr>
              <th>Value</th>
              {profiles.map((p) => (
                <th key={keyOf(p)}>
                  {p.name}
                  <AreaNote area={p.area} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {names.map((name) => {
              const same = profiles.every((p) => p.values[name] === profiles[0]?.values[name]);
              return (
                <tr key={name} data-value={name}>
                  <td className="mono">profile.{name}</td>
                  {profiles.map((p) => (
                    <td key={keyOf(p)}>
                      {name in p.values ? (
                        <span className={same ? "mono soft" : "mono"}>{p.values[name]}</span>
                      ) : profiles.some((other) => other.area === p.area && name in other.values) ? (
                        <span className="warned">⚠ missing</span>
                      ) : (
                        <span className="soft">not there</span>
                      )}
                    </td>
                  ))}
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </>
  );
}
