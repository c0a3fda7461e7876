import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { ReactFlowProvider } from "@xyflow/react";
import { useEffect, useState } from "react";
import { getDraft } from "../core/api/client";
import { DesignStore } from "../core/designer/DesignStore";
import { forgetUnsaved, unsavedText } from "../core/designer/shelf";
import { onDraft } from "../core/live/streams";
import { Workbench } from "../parts/designer/Workbench";
import { PageTitle, PageWithout } from "../parts/page/Page";
import { workspaceContextQuery } from "../queries/design";
import { kindsQuery } from "../queries/service";

/** The designer of one chain: opens its draft, with what this browser had not saved yet. */
export default function DesignerPage() {
  const { name } = useParams({ from: "/chains/$name/design" });
  const { data: kinds } = useQuery(kindsQuery);
  const { data: context, error: refused } = useQuery(workspaceContextQuery(name));
  const [store, setStore] = useState<DesignStore | null>(null);
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    let opened: DesignStore | null = null;
    let wanted = true;
    setStore(null);
    setError(null);
    getDraft(name).then(
      (draft) => {
        if (!wanted) return;
        const mine = unsavedText(name);
        const differs = mine !== null && mine.text !== draft.source;
        if (!differs) forgetUnsaved(name);
        opened = new DesignStore(name, draft, differs ? mine.text : null);
        // The unsaved text was made from another version: the person chooses between the two.
        if (differs && mine.version !== draft.version) opened.raiseConflict(draft);
        setStore(opened);
      },
      (e: unknown) => wanted && setError(e instanceof Error ? e.message : String(e)),
    );
    const end = onDraft((saved) => {
      if (saved.chain === name) opened?.noticeVersion(saved.version);
    });
    const leave = (event: BeforeUnloadEvent) => {
      if (opened?.isDirty === true && opened.state.saved === "lost") event.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => {
      wanted = false;
      end();
      window.removeEventListener("beforeunload", leave);
      opened?.close();
    };
  }, [name]);
  if (error !== null || !store || !kinds || !context)
    return <PageWithout title={`Design ${name}`} error={error ?? refused} />;
  return (
    <ReactFlowProvider key={name}>
      <PageTitle title={`Design ${name}`} />
      <Workbench store={store} kinds={kinds} context={context} />
    </ReactFlowProvider>
  );
}
