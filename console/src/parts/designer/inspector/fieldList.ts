const reachable = "input:not([type=hidden]), select, textarea, button, [contenteditable=true]";

/** What an element of the inspector is called by people who hear it. */
function nameOf(element: HTMLElement): string {
  const labelled = element
    .getAttribute("aria-labelledby")
    ?.split(" ")
    .map((id) => document.getElementById(id)?.textContent ?? "")
    .join(" ");
  const label = element instanceof HTMLInputElement ? element.labels?.[0] : undefined;
  const seen = label ?? element.closest("label") ?? element;
  const text = seen.cloneNode(true) as HTMLElement;
  text.querySelectorAll("[aria-hidden=true]").forEach((hidden) => hidden.remove());
  const other =
    element instanceof HTMLSelectElement || element instanceof HTMLTextAreaElement
      ? element.labels[0]?.textContent
      : undefined;
  return (element.getAttribute("aria-label") ?? labelled ?? other ?? text.textContent ?? "")
    .replace(/\s*\*$/, "")
    .replace(/\s+/g, " ")
    .trim();
}

/** The fields and buttons of the inspector in their order, each with its name and the part it stands in. */
export function fieldsOf(host: HTMLElement | null): { element: HTMLElement; name: string; about: string }[] {
  return [...(host?.querySelectorAll<HTMLElement>(reachable) ?? [])]
    .filter((e) => e.offsetParent !== null && !e.matches(":disabled"))
    .map((element) => ({
      element,
      name: nameOf(element),
      about: [element.closest("fieldset")?.querySelector("legend"), element.closest("section")?.querySelector("h3")]
        .flatMap((title) => title?.textContent.replace(/[▾▸*]/g, "").trim() ?? [])
        .join(", "),
    }))
    .filter((field) => field.name !== "");
}
