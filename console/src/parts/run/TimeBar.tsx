import { ActionIcon, CloseButton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { clock } from "../../core/format";
import { isTyping } from "../../core/help/place";
import { indexOf, wordsOf } from "../../core/runs/moments";
import { momentsQuery } from "../../queries/runs";

/** A run through its decisions: a slider, the one before and behind (the keys , and .), and what was decided. */
export function TimeBar({
  run,
  last,
  moment,
  go,
  close,
}: {
  run: number;
  /** The number of the run's last decision. */
  last: number;
  moment: number;
  go: (moment: number) => void;
  close: () => void;
}) {
  const { data: moments = [] } = useQuery(momentsQuery(run, last));
  const at = indexOf(moments, moment);
  const step = (by: number) => {
    const next = moments[Math.min(moments.length - 1, Math.max(0, at + by))];
    if (next) go(next.seq);
  };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.key !== "," && event.key !== ".") || event.ctrlKey || event.metaKey) return;
      // The slider itself takes no text.
      if (isTyping(event.target) && !(event.target instanceof HTMLInputElement && event.target.type === "range"))
        return;
      event.preventDefault();
      step(event.key === "," ? -1 : 1);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
  const now = moments[at];
  return (
    <div className="timebar" role="group" aria-label="Through time">
      <ActionIcon variant="subtle" aria-label="The decision before (,)" disabled={at <= 0} onClick={() => step(-1)}>
        ◂
      </ActionIcon>
      <input
        type="range"
        aria-label="Decision"
        min={0}
        max={Math.max(0, moments.length - 1)}
        value={at}
        aria-valuetext={now ? `${String(now.seq)}: ${wordsOf(now)}` : undefined}
        onChange={(event) => {
          const next = moments[Number(event.currentTarget.value)];
          if (next) go(next.seq);
        }}
      />
      <ActionIcon
        variant="subtle"
        aria-label="The decision behind (.)"
        disabled={at >= moments.length - 1}
        onClick={() => step(1)}
      >
        ▸
      </ActionIcon>
      <div className="timewords" role="status">
        {now && (
          <>
            <span className="soft">
              {at + 1} of {moments.length}, {clock(now.at)}
            </span>{" "}
            {wordsOf(now)}
          </>
        )}
      </div>
      <CloseButton aria-label="As it is now" title="As it is now" onClick={close} />
    </div>
  );
}
