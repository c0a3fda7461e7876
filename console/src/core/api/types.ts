import type { components } from "./schema";

type Schemas = components["schemas"];

export type ChainSummary = Schemas["ChainSummary"];
export type ChainDetail = Schemas["ChainDetail"];
export type ParameterInfo = Schemas["ParameterInfo"];
export type ScopeGraph = Schemas["ScopeGraph"];
export type StepNode = Schemas["StepNode"];
export type GateEdge = Schemas["GateEdge"];
export type RunSummary = Schemas["RunSummary"];
export type RunDetail = Schemas["RunDetail"];
export type RunPatch = Schemas["RunPatch"];
export type StepStatus = Schemas["StepStatus"];
export type IterationStatus = Schemas["IterationStatus"];
export type GateStatus = Schemas["GateStatus"];
export type AttemptInfo = Schemas["AttemptInfo"];
export type StepDetail = Schemas["StepDetail"];
export type WhyInfo = Schemas["WhyInfo"];
export type PartInfo = Schemas["PartInfo"];
export type LaneInfo = Schemas["LaneInfo"];
export type ConnectionInfo = Schemas["ConnectionInfo"];
export type ConnectionCheckInfo = Schemas["ConnectionCheckInfo"];
export type ColumnsInfo = Schemas["ColumnsInfo"];
export type SecretInfo = Schemas["SecretInfo"];
export type ProfileInfo = Schemas["ProfileInfo"];
export type ProgressInfo = Schemas["ProgressInfo"];
export type GuardInfo = Schemas["GuardInfo"];
export type RehearsalResult = Schemas["RehearsalResult"];
export type TraceInfo = Schemas["TraceInfo"];
export type LogPage = Schemas["LogPage"];
export type DraftInfo = Schemas["DraftInfo"];
export interface DraftNews {
  chain: string;
  version: number;
  by: string;
}
export type ReleaseInfo = Schemas["ReleaseInfo"];
export type ReleaseDetail = Schemas["ReleaseDetail"];
export type ProblemInfo = Schemas["ProblemInfo"];
export type PartChangeInfo = Schemas["PartChangeInfo"];
export type RenameResult = Schemas["RenameResult"];
export type ExpressionResult = Schemas["ExpressionResult"];
export type KindsInfo = Omit<Schemas["KindsInfo"], "rules"> & { rules: Record<string, unknown> };
export type KindInfo = Schemas["KindInfo"];
export type NameInfo = Schemas["NameInfo"];
export type SurroundingsInfo = Schemas["SurroundingsInfo"];
export type TemplateInfo = Schemas["TemplateInfo"];
export type DraftVersionInfo = Schemas["DraftVersionInfo"];
