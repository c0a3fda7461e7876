import { TextInput } from "@mantine/core";
import { useState } from "react";
import concepts from "../../../docs/concepts.md?raw";
import { find, wordsOf } from "../core/help/glossary";
import { Page } from "../parts/page/Page";
import { Prose } from "../parts/page/Prose";

const words = wordsOf(concepts);

/** The words that are used here, as the docs explain them. */
export function HelpPage() {
  const [search, setSearch] = useState("");
  const found = find(words, search);
  return (
    <Page
      title="Words used here"
      facts={<span className="soft small">one word for one thing, in files, console and command line</span>}
      actions={
        <TextInput
          size="xs"
          aria-label="Search words"
          placeholder="Search"
          value={search}
          onChange={(e) => setSearch(e.currentTarget.value)}
        />
      }
    >
      <dl className="sheet glossary">
        {found.map(({ word, text }) => (
          <div key={word}>
            <dt>{word}</dt>
            <dd>
              <Prose text={text} />
            </dd>
          </div>
        ))}
        {found.length === 0 && <p className="soft">No such word.</p>}
      </dl>
    </Page>
  );
}
