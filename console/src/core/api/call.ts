import createClient from "openapi-fetch";
import type { paths } from "./schema";
import type { DraftInfo, ProblemInfo } from "./types";

export const api = createClient<paths>({ baseUrl: "/", headers: { "X-Gatechain-By": "console" } });

/** What the service said when it refused, in its own words. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** The rest of what it said: problems, or the draft that somebody else has saved. */
    readonly details: { problems?: ProblemInfo[]; current?: DraftInfo } = {},
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
    const problem = result.error as { detail?: string; title?: string } | undefined;
    throw new Refused(
      problem?.detail ?? problem?.title ?? `The service answered ${String(result.response.status)}.`,
      result.response.status,
      (result.error ?? {}) as Refused["details"],
    );
  }
  return result.data as Data;
}
