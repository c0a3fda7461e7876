import createClient from "openapi-fetch";
import type { paths } from "./schema";
import type { RehearsalOrder } from "../rehearsal";
import type { ChainDetail, ChainSummary, LaneInfo, LogPage, RehearsalResult, RunDetail, RunSummary, StepDetail } from "./types";

const api = createClient<paths>({ baseUrl: "/", headers: { "X-Gatechain-By": "console" } });

/** What the service said when it refused, in its own words. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

async function answer<T>(call: Promise<{ data?: unknown; error?: unknown; response: Response }>): Promise<T> {
  let result;
  try {
    result = await call;
  } catch {
    throw new Refused("The service does not answer. Nothing was changed; try again when it is back.", 0);
  }
  if (result.error !== undefined || !result.response.ok) {
    const problem = result.error as { detail?: string; title?: string } | undefined;
    throw new Refused(problem?.detail ?? problem?.title ?? `the service answered ${String(result.response.status)}`, result.response.status);
  }
  return result.data as T;
}

export const listChains = () => answer<ChainSummary[]>(api.GET("/api/chains"));

export const getChain = (name: string) => answer<ChainDetail>(api.GET("/api/chains/{name}", { params: { path: { name } } }));

export const rehearse = (name: string, order: RehearsalOrder) =>
  answer<RehearsalResult>(api.POST("/api/chains/{name}/rehearsal", { params: { path: { name } }, body: { params: order.params as never, fail: order.fail, give: order.give as never, set: null, profile: null, ways: 0 } }));

export const listRuns = (filter: { chain?: string; state?: string; before?: number; limit?: number }) =>
  answer<RunSummary[]>(api.GET("/api/runs", { params: { query: filter } }));

export const getRun = (id: number, leg?: number) => answer<RunDetail>(api.GET("/api/runs/{id}", { params: { path: { id }, query: { leg } } }));

export const getStep = (id: number, path: string, leg?: number) =>
  answer<StepDetail>(api.GET("/api/runs/{id}/step", { params: { path: { id }, query: { path, leg } } }));

export const getLog = (id: number, path: string, attempt: number | undefined, from: number) =>
  answer<LogPage>(api.GET("/api/runs/{id}/log", { params: { path: { id }, query: { path, attempt, from } } }));

export const startRun = (chain: string, params: Record<string, unknown>, profile: string | null) =>
  answer<RunSummary>(api.POST("/api/runs", { body: { chain, params: params as never, profile } }));

export const stopRun = (id: number, message: string | null) =>
  answer<RunSummary>(api.POST("/api/runs/{id}/stop", { params: { path: { id } }, body: { message } }));

/** What a resume does otherwise than go on from where the run failed. */
export interface ResumeOrder {
  set: Record<string, unknown>;
  from: string[];
  skip: string[];
  release: string | null;
}

export const resumeRun = (id: number, order: ResumeOrder) =>
  answer<RunSummary>(api.POST("/api/runs/{id}/resume", { params: { path: { id } }, body: { ...order, set: order.set as never, settle: null } }));

export const pauseRun = (id: number) => answer<RunSummary>(api.POST("/api/runs/{id}/pause", { params: { path: { id } }, body: { message: null } }));

export const answerRun = (id: number, step: string, reply: string, outputs: Record<string, unknown> | null) =>
  answer<RunSummary>(api.POST("/api/runs/{id}/answer", { params: { path: { id } }, body: { step, answer: reply, outputs: outputs as never, message: null } }));

export const restartRun = (id: number) => answer<RunSummary>(api.POST("/api/runs/{id}/restart", { params: { path: { id } }, body: { latest: false } }));

export const listLanes = () => answer<LaneInfo[]>(api.GET("/api/lanes"));
