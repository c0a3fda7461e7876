/** What the files of a workspace are, by their kind. */
export const aboutFiles: Record<string, string> = {
  connections: "where databases, servers and folders are",
  profiles: "values for each environment",
  lanes: "how many steps run at once",
  calendars: "days that count and days off",
  triggers: "what starts chains by itself",
  attachment: "attachment",
};

/** A file as the service takes it: its bytes in base64. */
export function base64Of(buffer: Uint8Array): string {
  let binary = "";
  for (let i = 0; i < buffer.length; i += 0x8000) binary += String.fromCharCode(...buffer.subarray(i, i + 0x8000));
  return btoa(binary);
}

/** The text of a file; null for what is none. */
export function textIn(buffer: Uint8Array): string | null {
  try {
    const text = new TextDecoder("utf-8", { fatal: true }).decode(buffer);
    return text.includes("\0") ? null : text;
  } catch {
    return null;
  }
}
