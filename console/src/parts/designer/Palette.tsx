import { TextInput } from "@mantine/core";
import { useState } from "react";
import type { KindInfo } from "../../core/api/types";

const purposes: { name: string; label: string }[] = [
  { name: "data", label: "Data" },
  { name: "work", label: "Programs and chains" },
  { name: "ways", label: "Ways and loops" },
  { name: "run", label: "The run itself" },
];

/** The kinds of steps by what they are for: dragged onto the canvas, or added with Enter behind the chosen step. */
export function Palette({ kinds, add }: { kinds: KindInfo[]; add: (kind: string) => void }) {
  const [search, setSearch] = useState("");
  const found = kinds.filter((k) => `${k.name} ${k.doc}`.toLowerCase().includes(search.toLowerCase()));
  return (
    <aside className="palette" aria-label="Kinds of steps">
      <TextInput
        size="xs"
        aria-label="Search kinds"
        placeholder="Search kinds"
        value={search}
        onChange={(e) => setSearch(e.currentTarget.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && found[0]) {
            add(found[0].name);
            setSearch("");
          }
        }}
      />
      {purposes.map((p) => {
        const here = found.filter((k) => k.purpose === p.name);
        return here.length === 0 ? null : (
          <section key={p.name}>
            <h2>{p.label}</h2>
            {here.map((k) => (
              <button
                key={k.name}
                type="button"
                className="kind"
                draggable
                title={k.doc}
                onClick={() => add(k.name)}
                onDragStart={(e) => {
                  e.dataTransfer.setData("application/x-gatechain-kind", k.name);
                  e.dataTransfer.effectAllowed = "copy";
                }}
              >
                <b>{k.name}</b>
                <span>{k.doc}</span>
              </button>
            ))}
          </section>
        );
      })}
      {found.length === 0 && <p className="soft small">No kind is called so.</p>}
    </aside>
  );
}
