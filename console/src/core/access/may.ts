import type { SessionInfo } from "../api/types";

export type Permission = "see" | "operate" | "design" | "keep" | "administer";

/** The role that is enough for something and allows the least beside it. */
export const roleFor: Record<Permission, string> = {
  see: "viewer",
  operate: "operator",
  design: "designer",
  keep: "keeper",
  administer: "admin",
};

/** Whether a folder is another one or lies below it; an empty text is the whole workspace. */
export const holds = (outer: string, inner: string) => outer === "" || inner === outer || inner.startsWith(`${outer}/`);

/**
 * Whether somebody may do something.
 * @param folder where; somewhere at all when it is left out
 */
export function may(session: SessionInfo | undefined, permission: Permission, folder?: string): boolean {
  // Until it is known, and where nobody signs in, nothing is held back: the service decides.
  if (session === undefined || session.state === "open") return true;
  const given = session.may[permission] ?? [];
  return folder === undefined ? given.length > 0 : given.some((outer) => holds(outer, folder));
}

/** What keeps somebody from it, in a sentence; null when nothing does. */
export const whyNot = (session: SessionInfo | undefined, permission: Permission, folder?: string): string | null =>
  may(session, permission, folder)
    ? null
    : `This takes the role ${roleFor[permission]}${folder === undefined || folder === "" ? "" : ` in ${folder}`}: an admin gives it.`;

/** A role as it is written, in words: `operator:sales` is “operator in sales”. */
export function roleWords(role: string): string {
  const [word, folder] = role.split(":");
  return folder === undefined ? `${word ?? ""} everywhere` : `${word ?? ""} in ${folder}`;
}
