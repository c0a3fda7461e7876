import { answer, api } from "./call";
import type { KeepRuleInfo } from "./types";

export const listData = () => answer(api.GET("/api/lineage", {}));

/** Where data come from and go: of each that a name may mean. */
export const getLineage = (name: string) => answer(api.GET("/api/lineage/of", { params: { query: { name } } }));

export const getRetention = () => answer(api.GET("/api/retention", {}));

export const setRetention = (rule: KeepRuleInfo) => answer(api.PUT("/api/retention/rules", { body: rule }));

export const removeRetention = (chain: string | undefined, folder: string | undefined) =>
  answer(api.DELETE("/api/retention/rules", { params: { query: { chain, folder } } }));

export const removeOldRuns = () => answer(api.POST("/api/retention/passes", {}));

export const getUsage = () => answer(api.GET("/api/usage", {}));

export const pinRun = (id: number, why: string | null) =>
  answer(api.PUT("/api/runs/{id}/pin", { params: { path: { id } }, body: { why } }));

export const unpinRun = (id: number) => answer(api.DELETE("/api/runs/{id}/pin", { params: { path: { id } } }));
