import { notifications } from "@mantine/notifications";

/** Does something for the person and says so when it is refused. */
export async function act<T>(what: string, work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (e) {
    notifications.show({
      color: "red",
      title: what,
      message: e instanceof Error ? e.message : String(e),
      autoClose: 12_000,
    });
    return undefined;
  }
}
