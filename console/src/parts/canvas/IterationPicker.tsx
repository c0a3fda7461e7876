import { Button, Group, Modal, NativeSelect, TextInput } from "@mantine/core";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import type { IterationPage, IterationStatus } from "../../core/api/types";
import { iterationsQuery } from "../../queries/runs";
import { StateMark } from "../run/StateMark";

const rowHeight = 34;

/** Finds one of many iterations: by its name, by its state, failed ones first. */
export function IterationPicker({
  run,
  path,
  title,
  version,
  pick,
  close,
}: {
  run: number;
  path: string;
  title: string;
  /** Changes when the iterations may have. */
  version: string;
  /** Told the chosen one, with what is in it. */
  pick: (iteration: IterationStatus, page: IterationPage) => void;
  close: () => void;
}) {
  const [text, setText] = useState("");
  const [state, setState] = useState("");
  const searched = useDeferredValue(text.trim());
  const { data, hasNextPage, fetchNextPage, isFetching } = useInfiniteQuery(
    iterationsQuery(run, path, searched, state, version),
  );
  const pages = data?.pages ?? [];
  const rows = pages.flatMap((page) => page.iterations.map((iteration) => ({ iteration, page })));
  const counts = Object.entries(pages[0]?.counts ?? {});
  const scroll = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 8,
  });
  const last = list.getVirtualItems().at(-1)?.index ?? 0;
  useEffect(() => {
    if (hasNextPage && !isFetching && last >= rows.length - 20) void fetchNextPage();
  }, [hasNextPage, isFetching, last, rows.length, fetchNextPage]);
  return (
    <Modal opened onClose={close} title={`Iterations of ${title}`} size="lg">
      <Group gap="xs" align="end">
        <TextInput
          data-autofocus
          style={{ flex: 1 }}
          label="Search"
          placeholder="a part of its item"
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
          onKeyDown={(e) => {
            const first = rows[0];
            if (e.key === "Enter" && first) pick(first.iteration, first.page);
          }}
        />
        <NativeSelect
          label="State"
          value={state}
          onChange={(e) => setState(e.currentTarget.value)}
          data={[
            { value: "", label: "any" },
            ...counts.map(([word, n]) => ({ value: word, label: `${word} (${Number(n).toLocaleString("en")})` })),
          ]}
        />
        {counts.some(([word]) => word === "failed") && (
          <Button variant="default" onClick={() => setState("failed")}>
            Only failed
          </Button>
        )}
      </Group>
      <p className="small soft" role="status">
        {pages[0] === undefined
          ? "…"
          : `${Number(pages[0].found).toLocaleString("en")} of ${Number(pages[0].total).toLocaleString("en")}`}
      </p>
      <div ref={scroll} className="iterationlist" role="list" aria-label="Iterations" tabIndex={0}>
        <div style={{ height: list.getTotalSize(), position: "relative" }}>
          {list.getVirtualItems().map((item) => {
            const row = rows[item.index];
            return row === undefined ? null : (
              <div
                role="listitem"
                key={row.iteration.path}
                style={{ position: "absolute", top: item.start, left: 0, right: 0, height: item.size }}
              >
                <button type="button" onClick={() => pick(row.iteration, row.page)}>
                  <StateMark state={row.iteration.state} short /> <b>{row.iteration.item}</b>{" "}
                  <span className="mono soft small">{row.iteration.path}</span>{" "}
                  {row.iteration.message !== null && <span className="soft small">{row.iteration.message}</span>}
                </button>
              </div>
            );
          })}
        </div>
      </div>
    </Modal>
  );
}
