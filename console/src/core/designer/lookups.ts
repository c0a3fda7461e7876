import type { LookupItemInfo } from "../api/types";

/** Where a path is looked up: here, or where a connection leads. */
export interface LookPlace {
  /** Null for the machine of the service. */
  connection: string | null;
  label: string;
}

/** Types of connections that files are brought from and to. */
const servers = new Set(["sftp", "ftp", "s3", "azure"]);

/**
 * Where the path of a setting can be looked up, the likely place first: with a server it stands there, but for the end
 * of the way that is here.
 * @param name of the setting
 * @param connection that stands beside it, with its type; null for none
 * @param action that stands beside it
 */
export function placesOf(
  name: string,
  connection: { name: string; type: string } | null,
  action: string | undefined,
): LookPlace[] {
  const here = { connection: null, label: "on this machine" };
  if (connection === null) return [here];
  const there = { connection: connection.name, label: `in ${connection.name}` };
  if (!servers.has(connection.type)) return [there];
  const isHere = name === "to" ? action === "get" || action === undefined : action === "put";
  return isHere ? [here, there] : [there, here];
}

/** What is written of a path up to the place that has to be computed: nobody can look that up. */
export function lookFrom(text: string): string {
  const at = text.search(/\$\{|[*?]/);
  const known = at < 0 ? text : text.slice(0, at);
  return at < 0 ? known : known.slice(0, known.lastIndexOf("/") + 1);
}

/** The folder above one; nothing above the first. */
export const above = (folder: string) => folder.slice(0, folder.replace(/\/$/, "").lastIndexOf("/") + 1);

/** Those that have a text in them. */
export const having = (items: readonly LookupItemInfo[], text: string) =>
  items.filter((i) => i.text.toLowerCase().includes(text.trim().toLowerCase()));
