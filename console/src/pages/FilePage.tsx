import { Button, Tabs } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { getRouteApi, Link } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useRef, type ReactNode } from "react";
import { act } from "../app/act";
import { useNow } from "../app/useNow";
import { Refused } from "../core/api/call";
import { fileAddress, saveFile } from "../core/api/files";
import type { FileContent } from "../core/api/types";
import { base64Of, textIn } from "../core/files/kinds";
import { bytes, clock } from "../core/format";
import { ConnectionsForm } from "../parts/files/ConnectionsForm";
import { FileNotices, FileProblems } from "../parts/files/FileNotices";
import { FileVersions } from "../parts/files/FileVersions";
import { LanesForm } from "../parts/files/LanesForm";
import { ProfilesForm } from "../parts/files/ProfilesForm";
import type { FormProps } from "../parts/files/formProps";
import { useFileEditing, type FileEditing } from "../parts/files/useFileEditing";
import { ConfirmButton } from "../parts/page/ConfirmButton";
import { Page, PageWithout } from "../parts/page/Page";
import { fileQuery, useFileCommands } from "../queries/files";
import "../parts/files/files.css";

const TextEditor = lazy(() => import("../parts/files/TextEditor"));

const forms: Record<string, (props: FormProps) => ReactNode> = {
  "connections.yaml": ConnectionsForm,
  "profiles.yaml": ProfilesForm,
  "lanes.yaml": LanesForm,
};

const settings = new Set([...Object.keys(forms), "calendars.yaml", "triggers.yaml"]);

const nameOf = (path: string) => path.slice(path.lastIndexOf("/") + 1);

const route = getRouteApi("/files/edit");

/** A file of the workspace: as a form where it has one, as text, and as it was. */
export function FilePage() {
  const { path } = route.useSearch();
  const { data, error } = useQuery(fileQuery(path));
  const isNew = error instanceof Refused && error.status === 404 && settings.has(nameOf(path));
  if (!data && !isNew) return <PageWithout title={path} error={error} />;
  return <Editing key={path} path={path} content={data ?? null} />;
}

function Editing({ path, content }: { path: string; content: FileContent | null }) {
  const { view, entry } = route.useSearch();
  const navigate = route.useNavigate();
  const isText = content === null || content.text != null;
  const isSettings = settings.has(nameOf(path));
  const editing = useFileEditing(
    path,
    content,
    isText && (isSettings || content?.file.usedBy.some((u) => u.endsWith(".yaml")) === true),
  );
  const Form = forms[nameOf(path)];
  const shown = view ?? (Form ? "form" : "text");
  const now = useNow(false);
  const problems = editing.answer?.problems ?? none;
  const hasErrors = problems.some((p) => p.severity === "error");
  const save = () => void editing.save();
  useSaveKey(save);
  useWarnBeforeLeaving(editing.dirty);
  return (
    <Page
      title={path}
      facts={
        <span className="soft small" role="status" data-dirty={editing.dirty}>
          {content === null && editing.version === ""
            ? "not saved yet"
            : editing.dirty
              ? "changed, not saved yet"
              : content
                ? `saved; ${content.file.by}, ${clock(content.file.at, now)}, ${bytes(content.file.size)}`
                : "saved"}
          {problems.length > 0 &&
            ` · ${problems.length === 1 ? "one problem" : `${String(problems.length)} problems`} below`}
        </span>
      }
      actions={<Actions path={path} content={content} editing={editing} save={save} disabled={hasErrors} />}
    >
      <p className="small soft">
        <Link to="/files">Files</Link>
        {content && content.file.usedBy.length > 0 && (
          <>
            {" · used by "}
            {content.file.usedBy.map((u, i) => (
              <span key={u}>
                {i > 0 && ", "}
                {u.endsWith(".yaml") ? (
                  u
                ) : (
                  <Link to="/chains/$name" params={{ name: u }}>
                    {u}
                  </Link>
                )}
              </span>
            ))}
            {!isSettings && content.file.kind === "attachment" && !content.file.usedBy.some((u) => u.endsWith(".yaml"))
              ? `: saving makes a new release of ${content.file.usedBy.length === 1 ? "it" : "each of them"}`
              : ""}
          </>
        )}
      </p>
      <FileNotices path={path} editing={editing} />
      <Tabs
        value={shown}
        onChange={(next) =>
          void navigate({ search: (all) => ({ ...all, view: (next ?? undefined) as typeof view }), replace: true })
        }
        keepMounted={false}
      >
        <Tabs.List>
          {Form && <Tabs.Tab value="form">Form</Tabs.Tab>}
          <Tabs.Tab value="text">Text</Tabs.Tab>
          <Tabs.Tab value="versions">Versions</Tabs.Tab>
        </Tabs.List>
        {Form && (
          <Tabs.Panel value="form" pt="sm">
            <Form
              path={path}
              text={editing.text}
              change={editing.change}
              entry={entry}
              choose={(next) => void navigate({ search: (all) => ({ ...all, entry: next }), replace: true })}
            />
          </Tabs.Panel>
        )}
        <Tabs.Panel value="text" pt="sm">
          {isText ? (
            <Suspense>
              <TextEditor path={path} text={editing.text} change={editing.change} save={save} problems={problems} />
            </Suspense>
          ) : (
            <p className="soft">This is no text. It can be downloaded, and replaced.</p>
          )}
        </Tabs.Panel>
        <Tabs.Panel value="versions" pt="sm">
          <FileVersions path={path} text={editing.text} bringBack={(text) => editing.change(text)} />
        </Tabs.Panel>
      </Tabs>
      <FileProblems problems={problems} />
    </Page>
  );
}

const none: never[] = [];

function Actions({
  path,
  content,
  editing,
  save,
  disabled,
}: {
  path: string;
  content: FileContent | null;
  editing: FileEditing;
  save: () => void;
  disabled: boolean;
}) {
  const chooser = useRef<HTMLInputElement>(null);
  const navigate = route.useNavigate();
  const commands = useFileCommands();
  const remove = async () => {
    const answer = await act("It was not taken away", async () => {
      const found = await saveFile({
        path,
        text: null,
        base64: null,
        version: editing.version,
        anyway: false,
        note: null,
      });
      if (found.version === null)
        throw new Error(
          found.breaks.map((b) => `${b.what} needs it: ${b.message}`).join("\n") || found.problems[0]?.message,
        );
      return found;
    });
    if (answer) await navigate({ to: "/files" });
  };
  // A text is brought into the editor; other bytes take the place of the file at once.
  const replace = async (file: File) => {
    const buffer = new Uint8Array(await file.arrayBuffer());
    const text = textIn(buffer);
    if (text !== null && (content === null || content.text != null)) {
      editing.change(text);
      return;
    }
    await act("It was not replaced", () =>
      commands.save({
        path,
        text: null,
        base64: base64Of(buffer),
        version: editing.version,
        anyway: false,
        note: `${file.name} was uploaded`,
      }),
    );
  };
  return (
    <>
      <input
        ref={chooser}
        type="file"
        className="visuallyhidden"
        tabIndex={-1}
        aria-label={`A file for ${path}`}
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          e.currentTarget.value = "";
          if (file) void replace(file);
        }}
      />
      <Button size="compact-sm" variant="default" onClick={() => chooser.current?.click()}>
        Upload…
      </Button>
      {content && (
        <Button size="compact-sm" variant="default" component="a" href={fileAddress(path)} download>
          Download
        </Button>
      )}
      {content && settings.has(nameOf(path)) && (
        <ConfirmButton
          size="compact-sm"
          variant="default"
          label="Take away…"
          question={`Take ${path} away?`}
          confirmLabel="Take it away"
          confirm={remove}
        >
          What it says does not hold any more from then on. Its versions stay.
        </ConfirmButton>
      )}
      {editing.dirty && (
        <ConfirmButton
          size="compact-sm"
          variant="default"
          label="Discard…"
          question="Let your changes go?"
          confirmLabel="Let them go"
          confirm={() => Promise.resolve(editing.discard())}
        >
          What is saved stays as it is.
        </ConfirmButton>
      )}
      <Button size="compact-sm" disabled={!editing.dirty || disabled} title="Save (Ctrl+S)" onClick={save}>
        Save
      </Button>
    </>
  );
}

function useSaveKey(save: () => void) {
  const told = useRef(save);
  told.current = save;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== "s" || !(event.ctrlKey || event.metaKey) || event.defaultPrevented) return;
      event.preventDefault();
      told.current();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}

// What is typed is kept in the browser, but another one would not have it.
function useWarnBeforeLeaving(dirty: boolean) {
  useEffect(() => {
    if (!dirty) return;
    const onLeave = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", onLeave);
    return () => window.removeEventListener("beforeunload", onLeave);
  }, [dirty]);
}
