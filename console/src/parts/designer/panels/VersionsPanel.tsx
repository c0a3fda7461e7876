import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import type { PartChangeInfo } from "../../../core/api/types";
import { clock } from "../../../core/format";
import { act } from "../../../app/act";
import { getDraft } from "../../../core/api/client";
import { ConfirmButton } from "../../page/ConfirmButton";
import { Changes } from "./Changes";
import { useDesign, useDesigning } from "../useDesign";
import { draftVersionsQuery, releasesQuery, useChainCommands } from "../../../queries/chains";
import { comparisonQuery, readText, type ComparedText } from "../../../queries/design";

type Version =
  { kind: "release"; number: number } | { kind: "saved"; version: number; source: string } | { kind: "draft" };
const nameOf = (v: Version) =>
  v.kind === "draft"
    ? "this draft"
    : v.kind === "release"
      ? `release ${String(v.number)}`
      : `version ${String(v.version)} of the draft`;

/** Releases and earlier versions of the draft: compared with each other, and copied into the draft. */
export function VersionsPanel({ shown }: { shown: (changes: PartChangeInfo[] | null) => void }) {
  const { store } = useDesigning();
  const { design, version } = useDesign(store);
  const { data: releases } = useQuery(releasesQuery(store.chain));
  const { data: saved } = useQuery(draftVersionsQuery(store.chain, version));
  const [pair, setPair] = useState<[Version, Version] | null>(null);
  const textOf = (v: Version): ComparedText =>
    v.kind === "release"
      ? { chain: store.chain, release: v.number }
      : { text: v.kind === "draft" ? design.file.text : v.source };
  const { data: changes } = useQuery(comparisonQuery(pair && textOf(pair[0]), pair && textOf(pair[1])));
  useEffect(() => {
    shown(pair && changes && pair[1].kind === "draft" ? changes : null);
    return () => shown(null);
  }, [changes, pair, shown]);
  const take = async (v: Version) => store.apply({ text: await readText(textOf(v)) });
  return (
    <div className="versions">
      <div className="versionlist">
        <h3>Releases</h3>
        {releases?.length === 0 && <p className="soft small">It has not been released yet.</p>}
        <ul>
          {releases?.map((r, i) => (
            <li key={r.number}>
              <b>{r.number}</b> <span>{r.note ?? <span className="soft">no note</span>}</span>{" "}
              <span className="soft small">
                {r.author}, {clock(r.made)}
              </span>
              <span className="rest">
                <Button
                  size="compact-xs"
                  variant="default"
                  aria-label={`Compare release ${String(r.number)} with the draft`}
                  onClick={() => setPair([{ kind: "release", number: r.number }, { kind: "draft" }])}
                >
                  Compare
                </Button>
                {releases[i + 1] && (
                  <Button
                    size="compact-xs"
                    variant="subtle"
                    aria-label={`What it changed: release ${String(r.number)}`}
                    onClick={() =>
                      setPair([
                        { kind: "release", number: releases[i + 1]?.number ?? 0 },
                        { kind: "release", number: r.number },
                      ])
                    }
                  >
                    What it changed
                  </Button>
                )}
                <Button
                  size="compact-xs"
                  variant="subtle"
                  aria-label={`Copy into the draft: release ${String(r.number)}`}
                  onClick={() => void take({ kind: "release", number: r.number })}
                >
                  Copy into the draft
                </Button>
              </span>
            </li>
          ))}
        </ul>
        <h3>Earlier versions of the draft</h3>
        {version > 0 && <DiscardDraft hasRelease={(releases ?? []).length > 0} />}
        <ul>
          {saved
            ?.filter((d) => d.version !== version)
            .slice(0, 30)
            .map((d) => (
              <li key={d.version}>
                <span className="soft small">
                  version {d.version}, {d.author}, {clock(d.saved)}
                </span>
                <span className="rest">
                  <Button
                    size="compact-xs"
                    variant="default"
                    aria-label={`Compare version ${String(d.version)} with the draft`}
                    onClick={() =>
                      setPair([{ kind: "saved", version: d.version, source: d.source }, { kind: "draft" }])
                    }
                  >
                    Compare
                  </Button>
                  <Button
                    size="compact-xs"
                    variant="subtle"
                    aria-label={`Copy into the draft: version ${String(d.version)}`}
                    onClick={() => void take({ kind: "saved", version: d.version, source: d.source })}
                  >
                    Copy into the draft
                  </Button>
                </span>
              </li>
            ))}
        </ul>
      </div>
      <div className="versiondiff">
        {pair === null ? (
          <p className="soft small">
            Choose two versions to see what they say differently; what differs from the draft is marked on the canvas.
          </p>
        ) : (
          <>
            <h3>
              From {nameOf(pair[0])} to {nameOf(pair[1])}
            </h3>
            {changes && (
              <Changes changes={changes} choose={(c) => store.select({ steps: [c.address], gate: null }, true)} />
            )}
          </>
        )}
      </div>
    </div>
  );
}

/** Gives up the draft: the latest release is what the chain is then. */
function DiscardDraft({ hasRelease }: { hasRelease: boolean }) {
  const { store } = useDesigning();
  const { discard } = useChainCommands();
  const navigate = useNavigate();
  const go = () =>
    act("The draft was not discarded", async () => {
      await store.save();
      await discard(store.chain, store.state.version);
      store.released();
      if (hasRelease) store.take(await getDraft(store.chain));
      else await navigate({ to: "/chains" });
    });
  return (
    <ConfirmButton
      size="compact-xs"
      variant="subtle"
      color="red"
      label="Discard the draft…"
      question={`Discard the draft of ${store.chain}?`}
      confirmLabel="Discard"
      confirm={go}
    >
      {hasRelease
        ? "The chain is what its latest release says again. The versions of the draft that were saved are kept in its history."
        : "The chain has no release: it is gone then."}
    </ConfirmButton>
  );
}
