import { Tabs, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { getRouteApi } from "@tanstack/react-router";
import concepts from "../../../docs/concepts.md?raw";
import expressions from "../../../docs/expressions.md?raw";
import keys from "../../../docs/keys.md?raw";
import problems from "../../../docs/problems.md?raw";
import { wordsOf } from "../core/help/glossary";
import { examples } from "../core/help/examples";
import {
  findTopics,
  functionTopics,
  keyTopics,
  kindTopics,
  parts,
  problemTopics,
  wordTopics,
  type About,
  type Topic,
} from "../core/help/topics";
import { Page } from "../parts/page/Page";
import { Prose } from "../parts/page/Prose";
import { kindsQuery } from "../queries/service";
import "../parts/page/help.css";

// From the same files as the docs: nothing is said twice.
const fixed = {
  words: wordTopics(wordsOf(concepts)),
  functions: functionTopics(expressions),
  problems: problemTopics(problems),
  keys: keyTopics(keys),
};

const route = getRouteApi("/help");

/** Words, kinds, functions, problems and keys, as the docs explain them. */
export function HelpPage() {
  const { about = "words", find = "" } = route.useSearch();
  const navigate = route.useNavigate();
  const { data } = useQuery(kindsQuery);
  const topics: Record<About, Topic[]> = {
    ...fixed,
    kinds: data ? kindTopics(data.steps, data.probes, examples()) : [],
  };
  const found = Object.fromEntries(parts.map((p) => [p.about, findTopics(topics[p.about], find)])) as typeof topics;
  const go = (next: { about?: About; find?: string }) =>
    void navigate({ search: (all) => ({ ...all, ...next }), replace: true });
  return (
    <Page
      title="Help"
      facts={
        <TextInput
          size="xs"
          w={280}
          aria-label="Search the help"
          placeholder="Search"
          data-autofocus
          value={find}
          onChange={(e) => go({ find: e.currentTarget.value === "" ? undefined : e.currentTarget.value })}
        />
      }
    >
      <Tabs value={about} onChange={(next) => go({ about: (next ?? "words") as About })} keepMounted={false}>
        <Tabs.List>
          {parts.map((p) => (
            <Tabs.Tab key={p.about} value={p.about}>
              {p.title}
              {find !== "" && <span className="soft small"> {found[p.about].length}</span>}
            </Tabs.Tab>
          ))}
        </Tabs.List>
        {parts.map((p) => (
          <Tabs.Panel key={p.about} value={p.about} pt="sm">
            <Topics topics={found[p.about]} grouped={find === ""} />
          </Tabs.Panel>
        ))}
      </Tabs>
    </Page>
  );
}

function Topics({ topics, grouped }: { topics: readonly Topic[]; grouped: boolean }) {
  return (
    <dl className="sheet glossary">
      {topics.map((t, i) => (
        <div key={`${t.group} ${t.name} ${String(i)}`}>
          <dt>
            {t.name}
            {t.group !== "" && (!grouped || t.group !== topics[i - 1]?.group) && (
              <span className="soft small topicgroup">{t.group}</span>
            )}
          </dt>
          <dd>
            <Prose text={t.text} />
            {t.lines.length > 0 && (
              <ul>
                {t.lines.map((line) => (
                  <li key={line}>
                    <Prose text={line} />
                  </li>
                ))}
              </ul>
            )}
            {t.example !== null && (
              <pre tabIndex={0} aria-label={`Example of ${t.name}`}>
                {t.example}
              </pre>
            )}
          </dd>
        </div>
      ))}
      {topics.length === 0 && <p className="soft">Nothing here is called so, or speaks of it.</p>}
    </dl>
  );
}
