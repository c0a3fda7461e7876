import { TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useMemo } from "react";
import { titlesOf } from "../core/graph/titles";
import { DifferenceView } from "../parts/history/DifferenceView";
import { Page, PageWithout } from "../parts/page/Page";
import { chainQuery } from "../queries/chains";
import { differenceQuery } from "../queries/history";

/** A run beside another one: what was different. */
export function DifferencePage() {
  const id = Number(useParams({ from: "/runs/$id/difference" }).id);
  const { with: other } = useSearch({ from: "/runs/$id/difference" });
  const navigate = useNavigate();
  const { data, error } = useQuery(differenceQuery(id, other));
  const chain = useQuery({ ...chainQuery(data?.b.chain ?? ""), enabled: data !== undefined });
  const titles = useMemo(() => titlesOf(chain.data?.graph), [chain.data]);
  const title = `What was different in run ${String(id)}`;
  if (!data && error === null) return <PageWithout title={title} error={null} />;
  const compare = (text: string) => {
    const wanted = Number(text.trim());
    if (Number.isInteger(wanted) && wanted > 0)
      void navigate({ to: "/runs/$id/difference", params: { id: String(id) }, search: { with: wanted } });
  };
  return (
    <Page
      title={title}
      error={error}
      facts={
        data && (
          <Link className="small" to="/chains/$name/history" params={{ name: data.b.chain }}>
            history of {data.b.chain}
          </Link>
        )
      }
      actions={
        <TextInput
          key={String(data?.a.id)}
          size="xs"
          w={190}
          inputMode="numeric"
          aria-label="Compare with run"
          leftSection={<span className="soft small">beside run</span>}
          leftSectionWidth={82}
          defaultValue={data ? String(data.a.id) : ""}
          onKeyDown={(e) => {
            if (e.key === "Enter") compare(e.currentTarget.value);
          }}
        />
      }
    >
      {data && <DifferenceView found={data} titles={titles} />}
    </Page>
  );
}
