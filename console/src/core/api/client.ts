import createClient from "openapi-fetch";
import type { paths } from "./schema";
import type { RehearsalOrder } from "../rehearsal";
import type {
  ChainDetail,
  ChainSummary,
  BackfillInfo,
  KeptInfo,
  ColumnsInfo,
  ConnectionCheckInfo,
  ConnectionInfo,
  DraftInfo,
  DraftVersionInfo,
  DueInfo,
  ExpressionResult,
  FireAnswer,
  FireInfo,
  HealthInfo,
  KindsInfo,
  LaneInfo,
  LogPage,
  NameInfo,
  PartChangeInfo,
  ProblemInfo,
  ProfileInfo,
  ProgressInfo,
  RehearsalResult,
  ReleaseDetail,
  ReleaseInfo,
  RenameResult,
  RunDetail,
  PlanInfo,
  RunSummary,
  SecretInfo,
  StartHoldInfo,
  StepDetail,
  SurroundingsInfo,
  TemplateInfo,
  TriggerFile,
  TriggerFileAnswer,
  TriggerInfo,
  WeekDayInfo,
} from "./types";

const api = createClient<paths>({ baseUrl: "/", headers: { "X-Gatechain-By": "console" } });

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

async function answer<T>(call: Promise<{ data?: unknown; error?: unknown; response: Response }>): Promise<T> {
  let result;
  try {
    result = await call;
  } catch {
    throw new Refused("The service does not answer. Nothing was changed; try again when it is back.", 0);
  }
  if (result.error !== undefined || !result.response.ok) {
    const problem = result.error as { detail?: string; title?: string } | undefined;
    throw new Refused(
      problem?.detail ?? problem?.title ?? `the service answered ${String(result.response.status)}`,
      result.response.status,
      (result.error ?? {}) as Refused["details"],
    );
  }
  return result.data as T;
}

export const listChains = () => answer<ChainSummary[]>(api.GET("/api/chains"));

export const getChain = (name: string) =>
  answer<ChainDetail>(api.GET("/api/chains/{name}", { params: { path: { name } } }));

/** Plays the latest release, or a draft's source. */
export const rehearse = (name: string, order: RehearsalOrder, source: string | null = null) =>
  answer<RehearsalResult>(
    api.POST("/api/chains/{name}/rehearsal", {
      params: { path: { name } },
      body: {
        params: order.params as never,
        fail: order.fail,
        give: order.give as never,
        set: null,
        profile: null,
        ways: 0,
        source,
      },
    }),
  );

/** Which runs are listed; undefined for any. */
export interface RunFilter {
  chain?: string;
  state?: string;
  trigger?: string;
  from?: string;
  to?: string;
  text?: string;
  before?: number;
  limit?: number;
}

export const listRuns = (filter: RunFilter) =>
  answer<RunSummary[]>(api.GET("/api/runs", { params: { query: filter } }));

export const getRun = (id: number, leg?: number) =>
  answer<RunDetail>(api.GET("/api/runs/{id}", { params: { path: { id }, query: { leg } } }));

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
  answer<RunSummary>(
    api.POST("/api/runs/{id}/resume", {
      params: { path: { id } },
      body: { ...order, set: order.set as never, settle: null },
    }),
  );

export const planResume = (id: number, order: ResumeOrder, signal: AbortSignal) =>
  answer<PlanInfo>(
    api.POST("/api/runs/{id}/plan", {
      signal,
      params: { path: { id } },
      body: { ...order, set: order.set as never, settle: null },
    }),
  );

export const pauseRun = (id: number) =>
  answer<RunSummary>(api.POST("/api/runs/{id}/pause", { params: { path: { id } }, body: { message: null } }));

export const answerRun = (id: number, step: string, reply: string, outputs: Record<string, unknown> | null) =>
  answer<RunSummary>(
    api.POST("/api/runs/{id}/answer", {
      params: { path: { id } },
      body: { step, answer: reply, outputs: outputs as never, message: null },
    }),
  );

export const restartRun = (id: number) =>
  answer<RunSummary>(api.POST("/api/runs/{id}/restart", { params: { path: { id } }, body: { latest: false } }));

export const listConnections = () => answer<ConnectionInfo[]>(api.GET("/api/connections"));

export const checkConnection = (name: string, area: string) =>
  answer<ConnectionCheckInfo>(
    api.POST("/api/connections/{name}/check", { params: { path: { name }, query: { area } } }),
  );

export const listSecrets = () => answer<SecretInfo[]>(api.GET("/api/secrets"));

export const setSecret = (name: string, value: string) =>
  answer<unknown>(api.PUT("/api/secrets/{name}", { params: { path: { name } }, body: { value } }));

export const removeSecret = (name: string) =>
  answer<unknown>(api.DELETE("/api/secrets/{name}", { params: { path: { name } } }));

export const listProfiles = () => answer<ProfileInfo[]>(api.GET("/api/profiles"));

/** How far the steps of a run have got that are at work, by path. */
export const getProgress = (id: number) =>
  answer<Record<string, ProgressInfo>>(api.GET("/api/runs/{id}/progress", { params: { path: { id } } }));

/** How the service fares; that it can't write comes with the status 503, and is an answer all the same. */
export const getHealth = async (): Promise<HealthInfo> => {
  const { data, error } = await api.GET("/health");
  return data ?? (error as unknown as HealthInfo);
};

export const recoverRun = (id: number) =>
  answer<RunSummary>(api.POST("/api/runs/{id}/recover", { params: { path: { id } } }));

export const confirmGone = (id: number, step: string) =>
  answer<RunSummary>(api.POST("/api/runs/{id}/gone", { params: { path: { id } }, body: { step } }));

export const listLanes = () => answer<LaneInfo[]>(api.GET("/api/lanes"));

export const getDraft = (name: string) =>
  answer<DraftInfo>(api.GET("/api/chains/{name}/draft", { params: { path: { name } } }));

const seen = (version: number) => ({ "If-Match": `"${String(version)}"` });

export const saveDraft = (
  name: string,
  version: number,
  source: string,
  files: Record<string, string> | null = null,
  area: string | null = null,
) =>
  answer<DraftInfo>(
    api.PUT("/api/chains/{name}/draft", {
      params: { path: { name } },
      headers: seen(version),
      body: { source, files, area },
    }),
  );

export const discardDraft = (name: string, version: number) =>
  answer<unknown>(api.DELETE("/api/chains/{name}/draft", { params: { path: { name } }, headers: seen(version) }));

export const listDraftVersions = (name: string) =>
  answer<DraftVersionInfo[]>(api.GET("/api/chains/{name}/draft/history", { params: { path: { name } } }));

export const listReleases = (name: string) =>
  answer<ReleaseInfo[]>(api.GET("/api/chains/{name}/releases", { params: { path: { name } } }));

export const getRelease = (name: string, number: number) =>
  answer<ReleaseDetail>(api.GET("/api/chains/{name}/releases/{number}", { params: { path: { name, number } } }));

export const makeRelease = (name: string, version: number, note: string) =>
  answer<ReleaseInfo>(
    api.POST("/api/chains/{name}/releases", {
      params: { path: { name } },
      headers: seen(version),
      body: { note, again: null },
    }),
  );

/** What of a draft is tried. */
export interface TryWish {
  source: string;
  params: Record<string, unknown>;
  profile: string | null;
  part: "whole" | "from" | "only" | "upTo";
  step: string | null;
  known: number | null;
  given: Record<string, unknown>;
  pauseBefore: string[];
}

export const tryDraft = (name: string, wish: TryWish) =>
  answer<RunSummary>(
    api.POST("/api/chains/{name}/try", {
      params: { path: { name } },
      body: { ...wish, params: wish.params as never, given: wish.given as never },
    }),
  );

export const checkDraft = (chain: string, source: string) =>
  answer<ProblemInfo[]>(api.POST("/api/design/check", { body: { chain, source } }));

export const compareSources = (before: string, after: string) =>
  answer<PartChangeInfo[]>(api.POST("/api/design/comparison", { body: { before, after } }));

export const planRename = (chain: string, source: string, what: string, scope: string, from: string, to: string) =>
  answer<RenameResult>(api.POST("/api/design/rename", { body: { chain, source, what, scope, from, to } }));

/** Where an expression stands. */
export interface Spot {
  step: string | null;
  place: string | null;
  scope: string | null;
  from: string | null;
}

export const lookAtExpression = (
  chain: string,
  source: string,
  spot: Spot,
  text: string,
  cursor: number | null,
  run: number | null,
) =>
  answer<ExpressionResult>(api.POST("/api/design/expression", { body: { chain, source, ...spot, text, cursor, run } }));

export const listNames = (chain: string, source: string, spot: Spot) =>
  answer<NameInfo[]>(
    api.POST("/api/design/names", { body: { chain, source, ...spot, text: "", cursor: null, run: null } }),
  );

/** The columns of a load step's source and target, as far as they can be told without a run. */
export const listColumns = (chain: string, source: string, step: string, run: number | null) =>
  answer<ColumnsInfo>(api.POST("/api/design/columns", { body: { chain, source, step, run } }));

export const listKinds = () => answer<KindsInfo>(api.GET("/api/kinds"));

export const getChainSchema = () => answer<unknown>(api.GET("/api/schema/chain"));

export const getSurroundings = (name: string) =>
  answer<SurroundingsInfo>(api.GET("/api/design/surroundings/{name}", { params: { path: { name } } }));

export const listTemplates = () => answer<TemplateInfo[]>(api.GET("/api/templates"));

/** Brings a workspace: contents in base64, by name. */
export const pushWorkspace = (files: Record<string, string>) =>
  answer<{ chains: { name: string }[] }>(api.POST("/api/workspace", { body: { files, note: null } }));

export const listKept = (name: string) =>
  answer<KeptInfo[]>(api.GET("/api/chains/{name}/kept", { params: { path: { name } } }));

/** Sets values that a chain keeps, or lets them begin anew. A text is read as the variable's type asks. */
export const changeKept = (name: string, profile: string, set: Record<string, unknown>, reset: string[]) =>
  answer<unknown>(
    api.PUT("/api/chains/{name}/kept", {
      params: { path: { name } },
      body: { profile: profile === "" ? null : profile, set: set as never, reset },
    }),
  );

export const listTriggers = (chain?: string) =>
  answer<TriggerInfo[]>(api.GET("/api/triggers", { params: { query: { chain } } }));

export const switchTrigger = (name: string, on: boolean, missed: boolean) =>
  on
    ? answer<unknown>(api.POST("/api/triggers/{name}/on", { params: { path: { name } }, body: { missed } }))
    : answer<unknown>(api.POST("/api/triggers/{name}/off", { params: { path: { name } } }));

/** Fires a trigger by hand: with what a schedule has now, with an event, or with that of an earlier fire. */
export const fireTrigger = (name: string, event: unknown, again: number | null) =>
  answer<FireAnswer>(
    api.POST("/api/triggers/{name}/fire", { params: { path: { name } }, body: { event: event as never, again } }),
  );

export const nextTimes = (name: string, count: number) =>
  answer<DueInfo[]>(api.GET("/api/triggers/{name}/next", { params: { path: { name }, query: { count } } }));

export const listFires = (filter: { trigger?: string; fate?: string; run?: number; before?: number; limit?: number }) =>
  answer<FireInfo[]>(api.GET("/api/fires", { params: { query: filter } }));

export const weekOfStarts = (from: string) =>
  answer<WeekDayInfo[]>(api.GET("/api/triggers/week", { params: { query: { from } } }));

export const listTriggerFiles = () => answer<TriggerFile[]>(api.GET("/api/triggers/files"));

/** Checks a file of triggers; saves it when it says which version it is of. */
export const saveTriggers = (path: string, content: string, seen: number | null) =>
  answer<TriggerFileAnswer>(api.PUT("/api/triggers/files", { body: { path, content, seen } }));

export const listHolds = () => answer<StartHoldInfo[]>(api.GET("/api/holds"));

export const setHold = (on: boolean, why: string | null) =>
  answer<unknown>(api.PUT("/api/holds", { body: { on, folder: "", why } }));

/** What a backfill does. */
export interface BackfillOrder {
  from: string;
  to: string;
  parallel: number;
  newestFirst: boolean;
  again: "none" | "failed" | "all";
  keep: boolean;
}

export const backfill = (name: string, order: BackfillOrder, preview: boolean) =>
  answer<BackfillInfo>(
    api.POST("/api/triggers/{name}/backfill", { params: { path: { name } }, body: { ...order, preview } }),
  );

export const listBackfills = () => answer<BackfillInfo[]>(api.GET("/api/backfills"));

export const changeBackfill = (number: number, action: "pause" | "resume" | "stop") =>
  answer<BackfillInfo>(api.POST("/api/backfills/{number}/{action}", { params: { path: { number, action } } }));
