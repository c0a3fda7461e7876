import { useNow } from "../../app/useNow";
import { act } from "../../app/act";
import { roleWords } from "../../core/access/may";
import type { TokenInfo } from "../../core/api/types";
import { clock } from "../../core/format";
import { useAccessCommand } from "../../queries/access";
import { ConfirmButton } from "../page/ConfirmButton";
import { EmptyState } from "../page/EmptyState";
import { DataTable, type Column } from "../table/DataTable";

/** Tokens of programs: what each allows, until when, and when it was used. */
export function TokenTable({
  tokens,
  revoke,
  withOwner = false,
}: {
  tokens: readonly TokenInfo[];
  revoke: (id: string) => Promise<unknown>;
  withOwner?: boolean;
}) {
  const now = useNow(false);
  const run = useAccessCommand();
  if (tokens.length === 0) return <EmptyState>There are no tokens. A program shows one to be let in.</EmptyState>;
  const columns: Column<TokenInfo>[] = [
    { title: "Token", cell: (t) => t.name },
    ...(withOwner ? [{ title: "Of", cell: (t: TokenInfo) => t.owner }] : []),
    { title: "Allows", cell: (t) => t.roles.map(roleWords).join(", ") },
    { title: "Until", cell: (t) => (t.expires == null ? "it is revoked" : clock(t.expires, now)) },
    { title: "Used last", cell: (t) => (t.used == null ? "never" : clock(t.used, now)) },
    {
      title: { spoken: "Actions" },
      cell: (t) => (
        <ConfirmButton
          size="compact-xs"
          variant="default"
          label="Revoke…"
          aria-label={`Revoke ${t.name}`}
          question={`Revoke “${t.name}”?`}
          confirmLabel="Revoke it"
          confirm={() => act("It was not revoked", () => run(revoke(t.id)))}
        >
          Whoever shows it is not let in any more, from this moment on. This can't be taken back.
        </ConfirmButton>
      ),
    },
  ];
  return <DataTable columns={columns} rows={tokens} keyOf={(t) => t.id} />;
}
