import createClient from "openapi-fetch";
import { presence } from "../access/presence";
import { signedOut } from "../access/signedOut";
import type { paths } from "./schema";
import type { DraftInfo, ProblemInfo } from "./types";

export const api = createClient<paths>({ baseUrl: "/", headers: { "X-Gatechain-By": "console" } });

// Pages of other sites can't set it; and it says whether a person is there.
api.use({
  onRequest: ({ request }) => {
    request.headers.set("X-Gatechain", presence());
    return request;
  },
});

/** What the service said when it refused, in its own words. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** The rest of what it said: problems, or the draft that somebody else has saved. */
    readonly details: { problems?: ProblemInfo[]; current?: DraftInfo; needsCode?: boolean } = {},
  ) {
    super(message);
  }
}

/** What a call of the API brought: data of the type that its path and method say, or what was refused. */
type Answer<Data> = { data?: Data; error?: unknown; response: Response };

export async function answer<Data>(call: Promise<Answer<Data>>): Promise<Data> {
  let result: Answer<Data>;
  try {
    result = await call;
  } catch {
    throw new Refused("The service does not answer. Nothing was changed; try again when it is back.", 0);
  }
  if (result.error !== undefined || !result.response.ok) {
    if (result.response.status === 401 && !result.response.url.endsWith("/api/session")) signedOut.tell();
    const problem = result.error as { detail?: string; title?: string } | undefined;
    throw new Refused(
      problem?.detail ?? problem?.title ?? `The service answered ${String(result.response.status)}.`,
      result.response.status,
      (result.error ?? {}) as Refused["details"],
    );
  }
  return result.data as Data;
}
