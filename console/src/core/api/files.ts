import { answer, api } from "./call";

// What stands beside the chains.

/** Goes once to a connection of a file that is not saved. */
export const tryConnection = (path: string, text: string, name: string) =>
  answer(api.POST("/api/connections/try", { body: { path, text, name } }));

export const listConnectionTypes = () => answer(api.GET("/api/connections/types"));

export const listFiles = () => answer(api.GET("/api/files"));

export const listBroken = () => answer(api.GET("/api/broken"));

/** A file as it is, or was. */
export const getFile = (path: string, version?: string) =>
  answer(api.GET("/api/files/content", { params: { query: { path, version } } }));

export const listFileVersions = (path: string) =>
  answer(api.GET("/api/files/versions", { params: { query: { path } } }));

export interface FileOrder {
  path: string;
  text: string | null;
  base64: string | null;
  /** The version that was edited; empty for a new file, null to check only. */
  version: string | null;
  anyway: boolean;
  note: string | null;
}

export const saveFile = (order: FileOrder) => answer(api.PUT("/api/files", { body: order }));

/** Where the bytes of a file are. */
export const fileAddress = (path: string, version?: string) =>
  `/api/files/download?path=${encodeURIComponent(path)}${version === undefined ? "" : `&version=${encodeURIComponent(version)}`}`;
