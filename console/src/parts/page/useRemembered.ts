import { useState } from "react";
import { keepJson, readJson } from "../../core/browserStore";

/** A value that this browser remembers; where it may not, the value holds as long as the page. */
export function useRemembered<T>(name: string, usual: T): [T, (value: T) => void] {
  const key = `gatechain ${name}`;
  const [value, setValue] = useState<T>(() => {
    const found = readJson(key);
    const isAlike = found !== null && typeof found === typeof usual && Array.isArray(found) === Array.isArray(usual);
    return isAlike ? (found as T) : usual;
  });
  return [
    value,
    (next) => {
      setValue(next);
      keepJson(key, next);
    },
  ];
}
