import { useQuery } from "@tanstack/react-query";
import { useRouter } from "@tanstack/react-router";
import { destinations, runMeant } from "../core/help/goTo";
import { Chooser } from "../parts/page/Chooser";
import { chainsQuery } from "../queries/chains";

/** Goes to a page, a chain or a run by a few letters of its name, or its number. */
export default function GoTo({ typed, close }: { typed: () => string; close: () => void }) {
  const router = useRouter();
  const { data } = useQuery(chainsQuery);
  return (
    <Chooser
      title="Go to"
      label="A page, a chain, or the number of a run"
      items={destinations(data ?? [])}
      more={runMeant}
      typed={typed}
      choose={(path) => router.history.push(path)}
      close={close}
    />
  );
}
