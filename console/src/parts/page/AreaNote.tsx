/** The folder of the workspace that something lies in; nothing for the workspace itself. */
export function AreaNote({ area }: { area: string | null | undefined }) {
  return area ? <div className="soft small">in {area}/</div> : null;
}
