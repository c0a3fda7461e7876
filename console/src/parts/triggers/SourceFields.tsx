import { Button, Checkbox, Chip, Group, NativeSelect, NumberInput, TextInput } from "@mantine/core";
import { useState } from "react";
import { often, oftenOf, outcomes, reword, weekdays, type Often, type TriggerKind } from "../../core/triggers/form";

type Settings = Record<string, unknown>;

interface Fields {
  settings: Settings;
  change: (settings: Settings) => void;
}

const text = (value: unknown) =>
  Array.isArray(value) ? value.join(", ") : value === undefined || value === null ? "" : String(value as string);

/** One setting that is a text; empty takes it away. */
function Field({
  settings,
  change,
  name,
  label,
  description,
  list = false,
}: Fields & { name: string; label: string; description?: string; list?: boolean }) {
  const given = (typed: string): unknown => {
    if (typed === "") return undefined;
    const parts = typed.split(",").map((p) => p.trim());
    return list && parts.length > 1 ? parts.filter((p) => p !== "") : typed;
  };
  return (
    <TextInput
      label={label}
      description={description}
      inputWrapperOrder={["label", "input", "description", "error"]}
      value={text(settings[name])}
      onChange={(e) => change(without({ ...settings, [name]: given(e.currentTarget.value) }))}
    />
  );
}

const without = (settings: Settings): Settings =>
  Object.fromEntries(Object.entries(settings).filter(([, value]) => value !== undefined && value !== ""));

/** What a trigger of a kind waits for, in words; only what is not the usual has to be said. */
export function SourceFields({ kind, ...fields }: Fields & { kind: TriggerKind }) {
  switch (kind) {
    case "schedule":
      return <ScheduleFields {...fields} />;
    case "arrival":
      return <ArrivalFields {...fields} />;
    case "hook":
      return <HookFields {...fields} />;
    case "watch":
      return <WatchFields {...fields} />;
    case "outcome":
      return <OutcomeFields {...fields} />;
  }
}

function ScheduleFields(fields: Fields) {
  const { settings, change } = fields;
  const words = oftenOf(settings);
  const set = (name: string, value: unknown) => change(without({ ...settings, [name]: value }));
  const every = Array.isArray(settings.every) ? (settings.every as string[]) : [text(settings.every)];
  const [, count = "15", unit = "m"] = /^(\d+)([smh])$/.exec(text(settings.every)) ?? [];
  return (
    <>
      <Group grow align="start">
        <NativeSelect
          label="How often"
          value={words}
          onChange={(e) => change(reword(settings, e.currentTarget.value as Often))}
          data={often.map((o) => ({ ...o }))}
        />
        {words === "step" && (
          <Group gap={4} align="end" wrap="nowrap">
            <NumberInput
              label="Every"
              min={1}
              value={Number(count)}
              onChange={(value) => set("every", `${String(value || 1)}${unit}`)}
            />
            <NativeSelect
              aria-label="Unit"
              value={unit}
              onChange={(e) => set("every", `${count}${e.currentTarget.value}`)}
              data={[
                { value: "s", label: "seconds" },
                { value: "m", label: "minutes" },
                { value: "h", label: "hours" },
              ]}
            />
          </Group>
        )}
        {words === "month" && (
          <Field {...fields} name="on" label="On" description="1 to 31, last, 2nd tue, last weekday" />
        )}
        {words === "cron" && <Field {...fields} name="cron" label="Cron, five or six fields" />}
        {words === "rrule" && <Field {...fields} name="rrule" label="Calendar rule (RRULE)" />}
        {words !== "step" && words !== "cron" && (
          <Field {...fields} list name="at" label="At" description="02:30; several with commas" />
        )}
      </Group>
      {words === "week" && (
        <Chip.Group
          multiple
          value={every}
          onChange={(days) =>
            set(
              "every",
              weekdays.filter((d) => days.includes(d)),
            )
          }
        >
          <Group gap={6} mt="xs" role="group" aria-label="Days of the week">
            {weekdays.map((d) => (
              <Chip key={d} value={d} size="xs">
                {d}
              </Chip>
            ))}
          </Group>
        </Chip.Group>
      )}
      <Group grow align="start">
        <Field {...fields} name="zone" label="Time zone" description="its IANA name, for example Europe/Dublin" />
        <Field {...fields} list name="except" label="Except on days of" description="calendars of calendars.yaml" />
      </Group>
      <Group grow align="start" mt="xs">
        <NativeSelect
          label="Missed times"
          value={text(settings.missed) || "last"}
          onChange={(e) => set("missed", e.currentTarget.value === "last" ? undefined : e.currentTarget.value)}
          data={[
            { value: "last", label: "start once, for the newest" },
            { value: "all", label: "start once for each" },
            { value: "none", label: "pass them over" },
          ]}
        />
        <Field {...fields} name="spread" label="Spread over" description="5m; empty for not at all" />
        <Field {...fields} name="dueBy" label="To be through by" description="06:00; later counts as late" />
      </Group>
      <Group grow align="start" mt="xs">
        <Field {...fields} name="from" label="From" description="2026-01-31; empty for at once" />
        <Field {...fields} name="until" label="Until, not included" description="empty for ever" />
        <NativeSelect
          label="On days that are left out"
          disabled={settings.except === undefined}
          value={text(settings.onDayOff) || "skip"}
          onChange={(e) => set("onDayOff", e.currentTarget.value === "skip" ? undefined : e.currentTarget.value)}
          data={[
            { value: "skip", label: "it does not fire" },
            { value: "before", label: "it fires on the nearest day before" },
            { value: "after", label: "it fires on the nearest day after" },
          ]}
        />
      </Group>
    </>
  );
}

function ArrivalFields(fields: Fields) {
  const { settings, change } = fields;
  return (
    <>
      <Group grow align="start">
        <Field {...fields} name="path" label="Files" description="a path or a pattern: inbox/*.csv" />
        <Field {...fields} name="quiet" label="Quiet for" description="unchanged so long: 2s" />
        <Field {...fields} name="together" label="Gathered for" description="empty: a run for each file" />
      </Group>
      <Group grow align="start">
        <Field {...fields} name="ready" label="Complete when this file is there" description="{name}.done" />
        <Field
          {...fields}
          name="connection"
          label="On a server"
          description="a server or a bucket; empty: this machine"
        />
        {settings.connection !== undefined && (
          <Field {...fields} name="every" label="Looked at every" description="30s" />
        )}
        <Checkbox
          mt="xl"
          label="Files that are there already count"
          checked={settings.existing === "take"}
          onChange={(e) => change(without({ ...settings, existing: e.currentTarget.checked ? "take" : undefined }))}
        />
      </Group>
    </>
  );
}

function HookFields(fields: Fields) {
  const { settings, change } = fields;
  const how = settings.sign !== undefined ? "sign" : settings.token !== undefined ? "token" : "open";
  const let_ = (next: string) => {
    const rest = Object.fromEntries(Object.entries(settings).filter(([k]) => !["sign", "token", "open"].includes(k)));
    const secret = text(settings.sign ?? settings.token) || "secret:hook";
    change({ ...rest, [next]: next === "open" ? true : secret });
  };
  return (
    <>
      <Group grow align="start">
        <Field {...fields} name="path" label="Address behind /hooks/" />
        <NativeSelect
          label="Who may call"
          value={how}
          onChange={(e) => let_(e.currentTarget.value)}
          data={[
            { value: "sign", label: "whose calls are signed (Standard Webhooks)" },
            { value: "token", label: "who shows a token" },
            { value: "open", label: "anybody" },
          ]}
        />
        {how !== "open" && (
          <Field {...fields} list name={how} label="Secret" description="secret:NAME; two while one is changed" />
        )}
      </Group>
      <Group grow align="start">
        <Field
          {...fields}
          name="accepts"
          label="Bodies are as this JSON Schema says"
          description="a file of the workspace"
        />
        <Field {...fields} name="wait" label="The caller waits for the outputs" description="20s; empty: not at all" />
      </Group>
    </>
  );
}

const probeKinds: Record<string, { label: string; settings: string[] }> = {
  file: { label: "files", settings: ["path"] },
  query: { label: "a database", settings: ["query", "connection"] },
  http: { label: "an address", settings: ["url", "connection"] },
  port: { label: "a port", settings: ["port", "host"] },
  process: { label: "a process", settings: ["name"] },
};

/** One probe of a watch: its name, what it looks at, and where. */
function ProbeFields({
  name,
  probe,
  rename,
  change,
  remove,
}: {
  name: string;
  probe: Settings;
  rename: (name: string) => void;
  change: (probe: Settings) => void;
  remove?: () => void;
}) {
  const [typed, setTyped] = useState(name);
  const kind = text(probe.kind) || "file";
  return (
    <div className="proberow">
      <TextInput
        label="Called"
        value={typed}
        error={/^[a-z][a-z0-9_]*$/.test(typed) ? undefined : "a small letter, then letters, digits, _"}
        onChange={(e) => setTyped(e.currentTarget.value)}
        onBlur={() => (/^[a-z][a-z0-9_]*$/.test(typed) ? rename(typed) : setTyped(name))}
      />
      <NativeSelect
        label="Look at"
        value={kind}
        onChange={(e) => change({ kind: e.currentTarget.value })}
        data={Object.entries(probeKinds).map(([value, k]) => ({ value, label: k.label }))}
      />
      {(probeKinds[kind]?.settings ?? ["path"]).map((setting) => (
        <Field key={setting} settings={probe} change={(next) => change(without(next))} name={setting} label={setting} />
      ))}
      {remove && (
        <Button mt={26} size="sm" variant="default" aria-label={`Remove ${name}`} onClick={remove}>
          ✕
        </Button>
      )}
    </div>
  );
}

function WatchFields(fields: Fields) {
  const { settings, change } = fields;
  const given = Object.entries((settings.probes ?? {}) as Record<string, Settings>);
  const probes: [string, Settings][] = given.length > 0 ? given : [["seen", { kind: "file" }]];
  const set = (next: [string, Settings][]) => change({ ...settings, probes: Object.fromEntries(next) });
  return (
    <>
      {probes.map(([name, probe], at) => (
        <ProbeFields
          key={name}
          name={name}
          probe={probe}
          rename={(next) => {
            if (next !== name && !probes.some(([other]) => other === next))
              set(probes.map((p, i) => (i === at ? [next, p[1]] : p)));
          }}
          change={(next) => set(probes.map((p, i) => (i === at ? [p[0], next] : p)))}
          remove={probes.length > 1 ? () => set(probes.filter((_, i) => i !== at)) : undefined}
        />
      ))}
      <Button
        mt="xs"
        size="compact-xs"
        variant="default"
        onClick={() => set([...probes, [freeName(probes.map((p) => p[0])), { kind: "file" }]])}
      >
        Look at something else too
      </Button>
      <Group grow align="start">
        <Field
          {...fields}
          name="when"
          label="When (an expression)"
          description={`over ${probes.map(([name]) => `probes.${name}`).join(", ")}`}
        />
        <Field {...fields} name="every" label="Looked at every" description="1m" />
        <NativeSelect
          label="Fires"
          value={text(settings.again) || "change"}
          onChange={(e) => change({ ...settings, again: e.currentTarget.value })}
          data={[
            { value: "change", label: "when it becomes true, or changes while it is" },
            { value: "once", label: "when it becomes true" },
            { value: "always", label: "at every look at which it is true" },
          ]}
        />
      </Group>
    </>
  );
}

function freeName(taken: string[]): string {
  let n = 2;
  while (taken.includes(`seen${String(n)}`)) n++;
  return `seen${String(n)}`;
}

function OutcomeFields(fields: Fields) {
  const { settings, change } = fields;
  const is = Array.isArray(settings.is) ? (settings.is as string[]) : [text(settings.is)];
  return (
    <>
      <Field
        {...fields}
        list
        name="chains"
        label="Runs of"
        description="names and patterns with commas; ! leaves out: *, !tell-office"
      />
      <Checkbox.Group
        mt="sm"
        label="have"
        value={is}
        onChange={(next) => change({ ...settings, is: outcomes.filter((o) => next.includes(o)) })}
      >
        <Group gap="md" mt={4}>
          {outcomes.map((o) => (
            <Checkbox key={o} value={o} label={o} />
          ))}
        </Group>
      </Checkbox.Group>
      <Group gap="md" mt="sm">
        <Checkbox
          label="runs that other runs call count too"
          checked={settings.children === true}
          onChange={(e) => change(without({ ...settings, children: e.currentTarget.checked || undefined }))}
        />
        <Checkbox
          label="tries of drafts count too"
          checked={settings.tries === true}
          onChange={(e) => change(without({ ...settings, tries: e.currentTarget.checked || undefined }))}
        />
      </Group>
    </>
  );
}
