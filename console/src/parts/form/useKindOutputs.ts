import { useQuery } from "@tanstack/react-query";
import { kindsQuery } from "../../queries/service";

const none: { name: string; type: string }[] = [];

/** What a kind of step gives; nothing while that is not known, or for steps whose outputs another chain declares. */
export function useKindOutputs(kind: string | undefined): readonly { name: string; type: string }[] {
  const { data } = useQuery({ ...kindsQuery, enabled: kind !== undefined });
  return data?.steps.find((k) => k.name === kind)?.outputs ?? none;
}
