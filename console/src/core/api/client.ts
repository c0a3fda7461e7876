import { answer, api } from "./call";
import type { RehearsalOrder } from "../rehearsals/rehearsal";
import type { HealthInfo, KindsInfo } from "./types";

export const listChains = () => answer(api.GET("/api/chains"));

export const getChain = (name: string) => answer(api.GET("/api/chains/{name}", { params: { path: { name } } }));

/** Plays the latest release, or a draft's source. */
export const rehearse = (name: string, order: RehearsalOrder, source: string | null = null) =>
  answer(
    api.POST("/api/chains/{name}/rehearsal", {
      params: { path: { name } },
      body: {
        params: order.params,
        fail: order.fail,
        give: order.give,
        set: null,
        profile: null,
        ways: 0,
        source,
        known: order.known,
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

export const listRuns = (filter: RunFilter) => answer(api.GET("/api/runs", { params: { query: filter } }));

/** A run as it is, as it was when a leg ended, or as it was behind a decision. */
export const getRun = (id: number, leg?: number, moment?: number) =>
  answer(api.GET("/api/runs/{id}", { params: { path: { id }, query: { leg, moment } } }));

/** The decisions of a run behind one, at most 1,000. */
export const listMoments = (id: number, after: number) =>
  answer(api.GET("/api/runs/{id}/moments", { params: { path: { id }, query: { after, limit: 1000 } } }));

export const getHome = () => answer(api.GET("/api/home", {}));

/** The latest legs of a chain's runs, the newest first. */
export const getHistory = (name: string, most: number, tries: boolean) =>
  answer(api.GET("/api/chains/{name}/history", { params: { path: { name }, query: { most, tries } } }));

/** What a run had differently from another, from the last one that succeeded when none is named. */
export const getDifference = (id: number, other: number | undefined) =>
  answer(api.GET("/api/runs/{id}/difference", { params: { path: { id }, query: { with: other } } }));

/** When a run will end; null when nobody can tell. */
export const getExpected = async (id: number) =>
  (await answer(api.GET("/api/runs/{id}/expected", { params: { path: { id } } }))) ?? null;

export const getTrail = (id: number) => answer(api.GET("/api/runs/{id}/trail", { params: { path: { id } } }));

export const getStep = (id: number, path: string, leg?: number, moment?: number) =>
  answer(api.GET("/api/runs/{id}/step", { params: { path: { id }, query: { path, leg, moment } } }));

/** A page of a log: from an offset in bytes on, or up to one. */
export const getLog = (
  id: number,
  path: string,
  attempt: number,
  part: { from?: number; before?: number; most: number },
) => answer(api.GET("/api/runs/{id}/log", { params: { path: { id }, query: { path, attempt, ...part } } }));

export const searchLog = (
  id: number,
  path: string,
  attempt: number | undefined,
  wanted: { text: string; level: string | null; from: number },
  signal: AbortSignal,
) =>
  answer(
    api.GET("/api/runs/{id}/log/search", {
      params: { path: { id }, query: { path, attempt, ...wanted, level: wanted.level ?? undefined } },
      signal,
    }),
  );

/** Where all of a log can be had as a file. */
export const logFile = (id: number, path: string, attempt: number) =>
  `/api/runs/${String(id)}/log/file?path=${encodeURIComponent(path)}&attempt=${String(attempt)}`;

export const startRun = (chain: string, params: Record<string, unknown>, profile: string | null) =>
  answer(api.POST("/api/runs", { body: { chain, params: params, profile } }));

export const stopRun = (id: number, message: string | null) =>
  answer(api.POST("/api/runs/{id}/stop", { params: { path: { id } }, body: { message } }));

/** What a resume does otherwise than continue from where the run failed. */
export interface ResumeOrder {
  set: Record<string, unknown>;
  from: string[];
  skip: string[];
  release: string | null;
}

export const resumeRun = (id: number, order: ResumeOrder) =>
  answer(
    api.POST("/api/runs/{id}/resume", {
      params: { path: { id } },
      body: { ...order, set: order.set, settle: null },
    }),
  );

export const planResume = (id: number, order: ResumeOrder, signal: AbortSignal) =>
  answer(
    api.POST("/api/runs/{id}/plan", {
      signal,
      params: { path: { id } },
      body: { ...order, set: order.set, settle: null },
    }),
  );

export const pauseRun = (id: number) =>
  answer(api.POST("/api/runs/{id}/pause", { params: { path: { id } }, body: { message: null } }));

export const answerRun = (id: number, step: string, reply: string, outputs: Record<string, unknown> | null) =>
  answer(
    api.POST("/api/runs/{id}/answer", {
      params: { path: { id } },
      body: { step, answer: reply, outputs: outputs, message: null },
    }),
  );

/** Ends one step, or one iteration; the rest of the run goes on. */
export const cancelStep = (
  id: number,
  order: { step: string; as: string; outputs: Record<string, unknown> | null; message: string | null },
) => answer(api.POST("/api/runs/{id}/cancel", { params: { path: { id } }, body: order }));

export const restartRun = (id: number) =>
  answer(api.POST("/api/runs/{id}/restart", { params: { path: { id } }, body: { latest: false } }));

export const listConnections = () => answer(api.GET("/api/connections"));

export const checkConnection = (name: string, area: string) =>
  answer(api.POST("/api/connections/{name}/check", { params: { path: { name }, query: { area } } }));

export const listSecrets = () => answer(api.GET("/api/secrets"));

export const setSecret = (name: string, value: string, area: string | null) =>
  answer(api.PUT("/api/secrets/{name}", { params: { path: { name } }, body: { value, area } }));

export const removeSecret = (name: string) => answer(api.DELETE("/api/secrets/{name}", { params: { path: { name } } }));

export const listProfiles = () => answer(api.GET("/api/profiles"));

/** How far the steps of a run have got that are running, by path. */
export const getProgress = (id: number) => answer(api.GET("/api/runs/{id}/progress", { params: { path: { id } } }));

/** How the service fares; that it can't write comes with the status 503, and is an answer all the same. */
export const getHealth = async (): Promise<HealthInfo> => {
  const { data, error } = await api.GET("/health");
  return data ?? (error as unknown as HealthInfo);
};

export const listIterations = (
  id: number,
  path: string,
  wanted: { text?: string; state?: string; from?: number; limit?: number },
) => answer(api.GET("/api/runs/{id}/iterations", { params: { path: { id }, query: { path, ...wanted } } }));

export const recoverRun = (id: number) => answer(api.POST("/api/runs/{id}/recover", { params: { path: { id } } }));

export const confirmGone = (id: number, step: string) =>
  answer(api.POST("/api/runs/{id}/gone", { params: { path: { id } }, body: { step } }));

export const answerHold = (id: number, step: string, word: "look" | "let-through", message: string | null) =>
  answer(api.POST("/api/runs/{id}/hold", { params: { path: { id } }, body: { step, answer: word, message } }));

export const listLanes = () => answer(api.GET("/api/lanes"));

export const listNodes = () => answer(api.GET("/api/nodes"));

export const drainNode = (name: string) => answer(api.PUT("/api/nodes/{name}/drain", { params: { path: { name } } }));

export const undrainNode = (name: string) =>
  answer(api.DELETE("/api/nodes/{name}/drain", { params: { path: { name } } }));

export const getDraft = (name: string) => answer(api.GET("/api/chains/{name}/draft", { params: { path: { name } } }));

const seen = (version: number) => ({ "If-Match": `"${String(version)}"` });

export const saveDraft = (
  name: string,
  version: number,
  source: string,
  files: Record<string, string> | null = null,
  area: string | null = null,
) =>
  answer(
    api.PUT("/api/chains/{name}/draft", {
      params: { path: { name } },
      headers: seen(version),
      body: { source, files, area },
    }),
  );

export const discardDraft = (name: string, version: number) =>
  answer(api.DELETE("/api/chains/{name}/draft", { params: { path: { name } }, headers: seen(version) }));

export const listDraftVersions = (name: string) =>
  answer(api.GET("/api/chains/{name}/draft/history", { params: { path: { name } } }));

export const listUses = (name: string) => answer(api.GET("/api/chains/{name}/uses", { params: { path: { name } } }));

export const retireChain = (name: string, why: string | null) =>
  answer(api.PUT("/api/chains/{name}/retirement", { params: { path: { name } }, body: { why } }));

export const bringBackChain = (name: string) =>
  answer(api.DELETE("/api/chains/{name}/retirement", { params: { path: { name } } }));

/** Where a chain is used, and what a version of it that is not released yet would break there. */
export const checkUses = (name: string, source: string) =>
  answer(api.POST("/api/chains/{name}/uses", { params: { path: { name } }, body: { source } }));

export const listReleases = (name: string) =>
  answer(api.GET("/api/chains/{name}/releases", { params: { path: { name } } }));

export const getRelease = (name: string, number: number) =>
  answer(api.GET("/api/chains/{name}/releases/{number}", { params: { path: { name, number } } }));

export const makeRelease = (name: string, version: number, note: string) =>
  answer(
    api.POST("/api/chains/{name}/releases", {
      params: { path: { name } },
      headers: seen(version),
      body: { note, again: null },
    }),
  );

/** What of a draft is tried. */
export interface TryRequest {
  source: string;
  params: Record<string, unknown>;
  profile: string | null;
  part: "whole" | "from" | "only" | "upTo";
  step: string | null;
  known: number | null;
  given: Record<string, unknown>;
  pauseBefore: string[];
}

export const tryDraft = (name: string, request: TryRequest) =>
  answer(
    api.POST("/api/chains/{name}/try", {
      params: { path: { name } },
      body: request,
    }),
  );

export const checkDraft = (chain: string, source: string) =>
  answer(api.POST("/api/design/check", { body: { chain, source } }));

export const compareSources = (before: string, after: string) =>
  answer(api.POST("/api/design/comparison", { body: { before, after } }));

export const planRename = (chain: string, source: string, what: string, scope: string, from: string, to: string) =>
  answer(api.POST("/api/design/rename", { body: { chain, source, what, scope, from, to } }));

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
  values: Record<string, unknown> | null = null,
) => answer(api.POST("/api/design/expression", { body: { chain, source, ...spot, text, cursor, run, values } }));

export const listNames = (chain: string, source: string, spot: Spot) =>
  answer(api.POST("/api/design/names", { body: { chain, source, ...spot, text: "", cursor: null, run: null } }));

/** Tables of a connection, or files and folders that begin with a text. */
export const lookUp = (chain: string, what: "table" | "path", connection: string | null, begin: string | null) =>
  answer(api.POST("/api/design/lookup", { body: { chain, what, connection, begin } }));

/** The columns of a load step's source and target, as far as they can be told without a run. */
export const listColumns = (chain: string, source: string, step: string, run: number | null) =>
  answer(api.POST("/api/design/columns", { body: { chain, source, step, run } }));

/** What a load or check step would read: its first rows, and what its file seems to be. */
export const previewStep = (chain: string, source: string, step: string, run: number | null) =>
  answer(api.POST("/api/design/preview", { body: { chain, source, step, run } }));

export const listKinds = async () => (await answer(api.GET("/api/kinds"))) as KindsInfo;

export const getChainSchema = () => answer(api.GET("/api/schema/chain"));

export const getWorkspaceContext = (name: string) =>
  answer(api.GET("/api/design/surroundings/{name}", { params: { path: { name } } }));

export const listTemplates = () => answer(api.GET("/api/templates"));

/** Brings a workspace: contents in base64, by name. */
export const pushWorkspace = (files: Record<string, string>) =>
  answer(api.POST("/api/workspace", { body: { files, note: null, known: null, over: false } }));

export const listKept = (name: string) => answer(api.GET("/api/chains/{name}/kept", { params: { path: { name } } }));

/** Sets values that a chain keeps, or lets them begin again. A text is read as the variable's type asks. */
export const changeKept = (name: string, profile: string, set: Record<string, unknown>, reset: string[]) =>
  answer(
    api.PUT("/api/chains/{name}/kept", {
      params: { path: { name } },
      body: { profile: profile === "" ? null : profile, set: set, reset },
    }),
  );

export const listTriggers = (chain?: string) => answer(api.GET("/api/triggers", { params: { query: { chain } } }));

export const switchTrigger = (name: string, on: boolean, missed: boolean) =>
  on
    ? answer(api.POST("/api/triggers/{name}/on", { params: { path: { name } }, body: { missed } }))
    : answer(api.POST("/api/triggers/{name}/off", { params: { path: { name } } }));

/** Fires a trigger by hand: with what a schedule has now, with an event, or with that of an earlier fire. */
export const fireTrigger = (name: string, event: unknown, again: number | null) =>
  answer(api.POST("/api/triggers/{name}/fire", { params: { path: { name } }, body: { event: event, again } }));

export const nextTimes = (name: string, count: number) =>
  answer(api.GET("/api/triggers/{name}/next", { params: { path: { name }, query: { count } } }));

export const listFires = (filter: { trigger?: string; fate?: string; run?: number; before?: number; limit?: number }) =>
  answer(api.GET("/api/fires", { params: { query: filter } }));

export const weekOfStarts = (from: string) => answer(api.GET("/api/triggers/week", { params: { query: { from } } }));

export const listTriggerFiles = () => answer(api.GET("/api/triggers/files"));

/** Checks a file of triggers; saves it when it says which version it is of. */
export const saveTriggers = (path: string, content: string, seen: number | null) =>
  answer(api.PUT("/api/triggers/files", { body: { path, content, seen } }));

export const listHolds = () => answer(api.GET("/api/holds"));

export const setHold = (on: boolean, why: string | null) =>
  answer(api.PUT("/api/holds", { body: { on, folder: "", why } }));

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
  answer(api.POST("/api/triggers/{name}/backfill", { params: { path: { name } }, body: { ...order, preview } }));

export const listBackfills = () => answer(api.GET("/api/backfills"));

export const changeBackfill = (number: number, action: "pause" | "resume" | "stop") =>
  answer(api.POST("/api/backfills/{number}/{action}", { params: { path: { number, action } } }));
