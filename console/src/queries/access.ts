import { infiniteQueryOptions, queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  getSession,
  getSignIn,
  listAudit,
  listMySessions,
  listMyTokens,
  listPeople,
  listRules,
  listTokens,
  type AuditFilter,
} from "../core/api/access";
import { may, whyNot, type Permission } from "../core/access/may";
import { keys } from "./keys";

/** Who one is, and what one may do: asked once, and again when something says that it is otherwise. */
export const sessionQuery = queryOptions({
  queryKey: keys.session,
  queryFn: getSession,
  staleTime: Infinity,
  retry: 3,
});

export const mySessionsQuery = queryOptions({ queryKey: keys.mySessions, queryFn: listMySessions });
export const myTokensQuery = queryOptions({ queryKey: keys.myTokens, queryFn: listMyTokens });
export const peopleQuery = queryOptions({ queryKey: keys.people, queryFn: listPeople });
export const tokensQuery = queryOptions({ queryKey: keys.tokens, queryFn: listTokens });
export const signInQuery = queryOptions({ queryKey: keys.signIn, queryFn: getSignIn });
export const rulesQuery = queryOptions({ queryKey: keys.rules, queryFn: listRules });

export const auditQuery = (filter: AuditFilter) =>
  infiniteQueryOptions({
    queryKey: keys.audit(filter),
    queryFn: ({ pageParam }) => listAudit({ ...filter, before: pageParam }),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (page) => (page.length < 100 ? undefined : page.at(-1)?.number),
  });

/** What one may do: whether, and what keeps one from it. */
export function useMay() {
  const session = useQuery(sessionQuery).data;
  return {
    session,
    may: (permission: Permission, folder?: string) => may(session, permission, folder),
    whyNot: (permission: Permission, folder?: string) => whyNot(session, permission, folder),
  };
}

/** Does something about access, and refetches what hangs on it. Rejects with what the service refused. */
export function useAccessCommand() {
  const queries = useQueryClient();
  return async <T>(work: Promise<T>): Promise<T> => {
    try {
      return await work;
    } finally {
      const lists = [keys.people, keys.tokens, keys.myTokens, keys.mySessions, keys.rules, keys.signIn, ["audit"]];
      await Promise.all(lists.map((queryKey) => queries.invalidateQueries({ queryKey })));
    }
  };
}
