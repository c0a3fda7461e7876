// Writes deploy/dashboard.json: a dashboard over the metrics of gatechain serve --metrics, in the form that Grafana
// imports.
import { writeFileSync } from "node:fs";

const source = { type: "prometheus", uid: "${source}" };
const chains = 'chain=~"$chain"';
let id = 0,
  x = 0,
  y = 0;

function at(width, height) {
  if (x + width > 24) [x, y] = [0, y + height];
  const place = { x, y, w: width, h: height };
  x += width;
  return place;
}

function panel(type, title, width, unit, queries, more = {}) {
  return {
    id: ++id,
    type,
    title,
    datasource: source,
    gridPos: at(width, type === "stat" ? 4 : 8),
    fieldConfig: { defaults: { unit, ...more }, overrides: [] },
    targets: queries.map(([expr, legendFormat], i) => ({ refId: "ABCDEF"[i], expr, legendFormat, datasource: source })),
  };
}

const red = (from) => ({
  thresholds: { mode: "absolute", steps: [{ color: "green", value: null }, { color: "red", value: from }] },
});
const quantile = (q, metric, by) =>
  `histogram_quantile(${q}, sum by (le, ${by}) (rate(${metric}_bucket[$__rate_interval])))`;

const dashboard = {
  title: "Gate Chain",
  uid: "gatechain",
  schemaVersion: 39,
  version: 1,
  timezone: "utc",
  refresh: "30s",
  time: { from: "now-24h", to: "now" },
  templating: {
    list: [
      { name: "source", type: "datasource", query: "prometheus", label: "Source" },
      {
        name: "chain",
        type: "query",
        label: "Chain",
        datasource: source,
        query: "label_values(gatechain_runs_started_total, chain)",
        includeAll: true,
        multi: true,
        allValue: ".*",
        refresh: 2,
        current: { text: "All", value: "$__all" },
      },
    ],
  },
  panels: [
    panel("stat", "Failed in 24 h", 4, "short", [[`sum(increase(gatechain_runs_ended_total{outcome="failed",${chains}}[24h]))`, ""]], red(1)),
    panel("stat", "Runs going on", 4, "short", [["sum(gatechain_runs_in_flight)", ""]]),
    panel("stat", "Stranded", 4, "short", [["sum(gatechain_runs_stranded)", ""]], red(1)),
    panel("stat", "Wait for a person, 24 h", 4, "short", [[`sum(increase(gatechain_runs_paused_total{${chains}}[24h]))`, ""]]),
    panel("stat", "Nothing can be written", 4, "short", [["max(gatechain_store_trouble)", ""]], red(1)),
    panel("stat", "Triggers held", 4, "short", [["max(gatechain_triggers_held)", ""]], red(1)),
    panel("timeseries", "Runs that ended, by outcome", 12, "short", [
      [`sum by (outcome) (increase(gatechain_runs_ended_total{${chains}}[$__rate_interval]))`, "{{outcome}}"],
    ]),
    panel("timeseries", "Failed, by chain", 12, "short", [
      [`sum by (chain) (increase(gatechain_runs_ended_total{outcome="failed",${chains}}[$__rate_interval])) > 0`, "{{chain}}"],
    ]),
    panel("timeseries", "How long runs take (median, and one in twenty)", 12, "s", [
      [quantile(0.5, "gatechain_run_duration_seconds", "chain"), "{{chain}}"],
      [quantile(0.95, "gatechain_run_duration_seconds", "chain"), "{{chain}}, 95 %"],
    ]),
    panel("timeseries", "How long attempts take, by kind (one in twenty)", 12, "s", [
      [quantile(0.95, "gatechain_attempt_duration_seconds", "kind"), "{{kind}}"],
    ]),
    panel("timeseries", "Steps that settled, a second", 12, "ops", [
      [`sum by (outcome) (rate(gatechain_steps_ended_total{${chains}}[$__rate_interval]))`, "{{outcome}}"],
    ]),
    panel("timeseries", "Tried again, and late", 12, "short", [
      [`sum(increase(gatechain_attempts_retried_total{${chains}}[$__rate_interval]))`, "attempts done again"],
      [`sum(increase(gatechain_runs_late_total{${chains}}[$__rate_interval]))`, "runs late"],
    ]),
    panel("timeseries", "Memory of the service", 12, "bytes", [["dotnet_process_memory_working_set_bytes", "{{instance}}"]]),
    panel("timeseries", "Requests, a second", 12, "ops", [
      ["sum by (http_response_status_code) (rate(http_server_request_duration_seconds_count[$__rate_interval]))", "{{http_response_status_code}}"],
    ]),
  ],
};

writeFileSync(new URL("dashboard.json", import.meta.url), JSON.stringify(dashboard, null, 1) + "\n");
