import { TextInput } from "@mantine/core";
import { IconStarFilled } from "@tabler/icons-react";
import { useState } from "react";
import { occasions } from "../../core/graph/bands";
import type { KindInfo } from "../../core/api/types";
import { KindTile } from "../kinds/KindIcon";
import { KindCard } from "./KindCard";
import { useFavouriteKinds } from "./kindsUsed";

const purposes: { name: string; label: string }[] = [
  { name: "data", label: "Data" },
  { name: "work", label: "Programs, services" },
  { name: "ways", label: "Ways and loops" },
  { name: "run", label: "The run itself" },
];

/** The kinds of steps by what they are for: dragged onto the canvas, or added with Enter behind the chosen step. */
export function Palette({
  kinds,
  handled,
  add,
  handle,
}: {
  kinds: KindInfo[];
  /** The occasions that have a handler. */
  handled: readonly string[];
  add: (kind: string) => void;
  /** Adds the handler of an occasion, or chooses it. */
  handle: (occasion: string) => void;
}) {
  const [search, setSearch] = useState("");
  const [favourites, setFavourites] = useFavouriteKinds();
  const favouriteOf = (kind: string) => ({
    is: favourites.includes(kind),
    toggle: () =>
      setFavourites(favourites.includes(kind) ? favourites.filter((k) => k !== kind) : [...favourites, kind]),
  });
  const wanted = occasions.filter((o) =>
    `${o.name} ${o.title} ${o.about} handler`.toLowerCase().includes(search.toLowerCase()),
  );
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
          if (e.key !== "Enter") return;
          if (found[0]) add(found[0].name);
          else if (wanted[0]) handle(wanted[0].name);
          else return;
          setSearch("");
        }}
      />
      {purposes.map((p) => {
        const here = found.filter((k) => k.purpose === p.name);
        return here.length === 0 ? null : (
          <section key={p.name}>
            <h2>{p.label}</h2>
            {here.map((k) => (
              <KindCard key={k.name} kind={k.name} about={k.doc} favourite={favouriteOf(k.name)}>
                <button
                  type="button"
                  className="kind"
                  draggable
                  aria-description={k.doc}
                  aria-keyshortcuts="f"
                  onClick={() => add(k.name)}
                  onDragStart={(e) => {
                    e.dataTransfer.setData("application/x-gatechain-kind", k.name);
                    e.dataTransfer.effectAllowed = "copy";
                  }}
                >
                  <KindTile kind={k.name} size={15} />
                  <b>{k.name}</b>
                  {favourites.includes(k.name) && (
                    <IconStarFilled className="favourite" size={11} aria-label="favourite" />
                  )}
                </button>
              </KindCard>
            ))}
          </section>
        );
      })}
      {wanted.length > 0 && (
        <section>
          <h2>When it …</h2>
          {wanted.map((o) => (
            <KindCard
              key={o.name}
              kind={`@${o.name}`}
              title={o.title}
              about={handled.includes(o.name) ? `${o.about} The chain has this handler.` : o.about}
              favourite={null}
            >
              <button
                type="button"
                className="kind"
                draggable
                aria-label={`Handler: ${o.title.toLowerCase()}`}
                onClick={() => handle(o.name)}
                onDragStart={(e) => {
                  e.dataTransfer.setData("application/x-gatechain-occasion", o.name);
                  e.dataTransfer.effectAllowed = "copy";
                }}
              >
                <KindTile kind={`@${o.name}`} size={15} />
                <b>
                  {o.title.replace(/^(When it|At the) /, "").toLowerCase()}
                  {handled.includes(o.name) && " ✓"}
                </b>
              </button>
            </KindCard>
          ))}
        </section>
      )}
      {found.length + wanted.length === 0 && <p className="soft small">No kind is called so.</p>}
    </aside>
  );
}
