import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { FoundInfo, SampleInfo } from "../../../core/api/types";
import { setKeys } from "../../../core/designer/operations";
import { columnsOf, countsOf, fromOf, headerOf } from "../../../core/designer/previews";
import { at, plain, type Path } from "../../../core/document/tree";
import { previewQuery } from "../../../queries/design";
import { FormDialog } from "../../page/FormDialog";
import { useDesigning } from "../useDesign";

/** Looks into what a step reads before anything runs, and takes over how a file is to be read. */
export function DataLook({ step, path }: { step: string; path: Path }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="linkbutton" aria-haspopup="dialog" onClick={() => setOpen(true)}>
        Look inside…
      </button>
      {open && <Look step={step} path={path} close={() => setOpen(false)} />}
    </>
  );
}

function Look({ step, path, close }: { step: string; path: Path; close: () => void }) {
  const { store, pastRun } = useDesigning();
  const { data, error, isFetching } = useQuery(previewQuery(store.chain, () => store.text, step, pastRun));
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const settings = (plain(at(store.state.design.file.root, path.slice(0, -1))) ?? {}) as Record<string, unknown>;
  const from = (settings[String(path.at(-1))] ?? {}) as Record<string, unknown>;
  const found = data?.found ? { ...data.found, header: headerOf(data.found, from) } : null;
  // A check looks at all columns as they are.
  const choosing = path.at(-1) === "from";
  const take = () => {
    if (!data?.found || found === null) return;
    const chosen = new Set(found.header.map((c) => c.name).filter((c) => !left.has(c)));
    const columns = (settings.columns ?? {}) as Record<string, unknown>;
    store.apply(
      setKeys(store.state.design, path.slice(0, -1), {
        [String(path.at(-1))]: fromOf(data.found, from),
        ...(choosing ? { columns: columnsOf(data.found, from, columns, chosen) } : undefined),
      }),
    );
    close();
  };
  return (
    <FormDialog
      title={data?.what == null ? "Look inside" : `What stands in ${data.what}`}
      submitLabel={choosing ? "Take these settings and columns" : "Take these settings"}
      submit={() => Promise.resolve(take())}
      close={close}
      disabled={found === null || left.size === found.header.length}
      size="xl"
      className="datalook"
    >
      {isFetching && data === undefined && (
        <p className="soft" role="status">
          Looking…
        </p>
      )}
      {(error ?? data?.problem) != null && <p className="warned">{error?.message ?? data?.problem}</p>}
      {data?.sample != null && <Sample title="As the step is set" sample={data.sample} />}
      {found !== null && (
        <Found
          found={found}
          left={choosing ? left : null}
          toggle={(name) => setLeft(new Set(left.has(name) ? [...left].filter((n) => n !== name) : [...left, name]))}
        />
      )}
    </FormDialog>
  );
}

function Sample({ title, sample }: { title: string; sample: SampleInfo }) {
  return (
    <section>
      <h3>{title}</h3>
      <p className="soft small">{countsOf(sample)}</p>
      {sample.rows.length > 0 && (
        <div className="scrolled">
          <table className="dense lines">
            <thead>
              <tr>
                {sample.names.map((n) => (
                  <th key={n} scope="col">
                    {n}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {sample.rows.map((row, i) => (
                <tr key={i}>
                  {row.map((cell, j) => (
                    <td key={j}>{cell ?? <span className="soft">—</span>}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <Rejects sample={sample} />
    </section>
  );
}

function Rejects({ sample }: { sample: SampleInfo }) {
  if (sample.rejected === 0) return null;
  return (
    <ul className="rejects" aria-label="Rows that would be rejected">
      {sample.rejects.map((r) => (
        <li key={r.line}>
          <span className="soft">line {r.line.toLocaleString("en")}</span> {r.reason}
        </li>
      ))}
      {sample.rejected > sample.rejects.length && (
        <li className="soft">and {(sample.rejected - sample.rejects.length).toLocaleString("en")} more</li>
      )}
    </ul>
  );
}

function Found({
  found,
  left,
  toggle,
}: {
  found: FoundInfo;
  /** Columns that are not taken; null where nobody chooses. */
  left: ReadonlySet<string> | null;
  toggle: (column: string) => void;
}) {
  return (
    <section>
      <h3>As the file seems to be</h3>
      <p className="small">{[...found.sentences, countsOf(found.sample)].join("; ")}.</p>
      <div className="scrolled">
        <table className="dense lines">
          <thead>
            <tr>
              <th scope="col">column</th>
              <th scope="col">type</th>
              <th scope="col" className="num">
                empty
              </th>
              <th scope="col">for example</th>
            </tr>
          </thead>
          <tbody>
            {found.header.map((c) => (
              <tr key={c.name}>
                <td>
                  {left === null ? (
                    <code>{c.name}</code>
                  ) : (
                    <label className="columnpick">
                      <input type="checkbox" checked={!left.has(c.name)} onChange={() => toggle(c.name)} />{" "}
                      <code>{c.name}</code>
                    </label>
                  )}
                </td>
                <td>
                  {c.type ?? "text"} {c.format != null && <code className="soft">{c.format}</code>}
                </td>
                <td className="num">{c.empty === 0 ? "" : c.empty.toLocaleString("en")}</td>
                <td className="why">{c.examples.join(" · ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Rejects sample={found.sample} />
    </section>
  );
}
