import { ActionIcon, Autocomplete, Button, NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Spot } from "../../../core/api/client";
import {
  comparisons,
  literalOf,
  readSimple,
  sayComparison,
  writeSimple,
  type Comparison,
  type Simple,
} from "../../../core/designer/comparisons";
import { useDesigning } from "../useDesign";
import { namesQuery } from "../../../queries/design";

const empty: Comparison = { left: "", how: "==", right: "" };

/**
 * Puts conditions together from simple comparisons: a value, a comparison, a value. What it cannot read it says so, and
 * leaves alone.
 */
export function ExpressionBuilder({ text, spot, write }: { text: string; spot: Spot; write: (text: string) => void }) {
  const { store } = useDesigning();
  const read = readSimple(text);
  const begin = (): Simple => (read && read.parts.length > 0 ? read : { join: "&&", parts: [empty] });
  // The comparisons, the expression they stand for, and how often that came from elsewhere: what is typed in the field
  // is read again.
  const [at, setAt] = useState(() => ({ simple: begin(), text, outside: 0 }));
  if (text !== at.text) setAt({ simple: begin(), text, outside: at.outside + 1 });
  const { simple } = at;
  const { data } = useQuery(namesQuery(store.chain, () => store.text, spot, "builder"));
  const names = [...new Set((data ?? []).map((n) => n.name))];
  const typeOf = (name: string) => data?.find((n) => n.name === name)?.type ?? "any";
  const change = (next: Simple) => {
    const written = writeSimple(next);
    setAt({ ...at, simple: next, text: written === "" ? text : written });
    if (written !== "") write(written);
  };
  const part = (index: number, set: Partial<Comparison>) =>
    change({ ...simple, parts: simple.parts.map((p, i) => (i === index ? { ...p, ...set } : p)) });
  if (read === null)
    return (
      <div className="builder soft small">
        This expression says more than simple comparisons can; it is edited as text. Empty the field to start over here.
      </div>
    );
  return (
    <div className="builder" role="group" aria-label="Simple comparisons">
      {simple.parts.map((p, i) => (
        <div className="builderrow" key={`${String(at.outside)} ${String(i)}`}>
          {/* All comparisons are joined by the same word, so it is chosen in one place. */}
          {i > 1 && <span className="soft small joined">{simple.join === "&&" ? "and" : "or"}</span>}
          {i === 1 && (
            <NativeSelect
              size="xs"
              aria-label="Joined by"
              value={simple.join}
              data={[
                { value: "&&", label: "and" },
                { value: "||", label: "or" },
              ]}
              onChange={(e) => change({ ...simple, join: e.currentTarget.value as Simple["join"] })}
            />
          )}
          <Autocomplete
            size="xs"
            aria-label="Value"
            placeholder="value"
            data={names}
            limit={60}
            // A value that is there already does not keep the others out of sight.
            filter={({ options, search, limit }) =>
              names.includes(search)
                ? options.slice(0, limit)
                : options.filter((o) => "value" in o && o.value.includes(search)).slice(0, limit)
            }
            value={p.left}
            onChange={(left) => part(i, { left })}
          />
          <NativeSelect
            size="xs"
            aria-label="Comparison"
            value={p.how}
            data={comparisons.map((c) => ({ value: c.how, label: c.words }))}
            onChange={(e) => part(i, { how: e.currentTarget.value })}
          />
          {comparisons.find((c) => c.how === p.how)?.right === true && (
            <TextInput
              size="xs"
              aria-label="Compared with"
              placeholder="compared with"
              defaultValue={p.right.replace(/^'(.*)'$/, "$1")}
              onChange={(e) => part(i, { right: literalOf(e.currentTarget.value, typeOf(p.left)) })}
            />
          )}
          {simple.parts.length > 1 && (
            <ActionIcon
              variant="subtle"
              aria-label="Remove this comparison"
              onClick={() => change({ ...simple, parts: simple.parts.filter((_, j) => j !== i) })}
            >
              ×
            </ActionIcon>
          )}
        </div>
      ))}
      <div className="builderrow">
        <Button
          size="compact-xs"
          variant="default"
          onClick={() => setAt({ ...at, simple: { ...simple, parts: [...simple.parts, empty] } })}
        >
          One more
        </Button>
        <span className="soft small">
          {simple.parts
            .filter((p) => p.left !== "")
            .map(sayComparison)
            .join(simple.join === "&&" ? " and " : " or ")}
        </span>
      </div>
    </div>
  );
}
