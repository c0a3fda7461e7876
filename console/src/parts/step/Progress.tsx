import { useQuery } from "@tanstack/react-query";
import { progressQuery } from "../../queries/runs";

/** How far a step has got that is running; nothing when it does not tell. */
export function Progress({ run, path }: { run: number; path: string }) {
  const { data } = useQuery(progressQuery(run));
  const progress = data?.[path];
  if (!progress) return null;
  const whole = (n: number) => n.toLocaleString("en", { maximumFractionDigits: 0 });
  return (
    <div className="progress small">
      {progress.share != null && <progress aria-label="How much of it is done" value={progress.share} max={1} />}
      <span>
        {whole(progress.rows)} rows{progress.share != null && `, ${whole(progress.share * 100)} %`},{" "}
        {whole(progress.perSecond)} a second{progress.bytes != null && `, ${whole(progress.bytes / 1024)} KiB read`}
      </span>
    </div>
  );
}
