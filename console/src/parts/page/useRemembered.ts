import { useState } from "react";

/** A value that this browser remembers; where it may not, the value holds as long as the page. */
export function useRemembered<T>(name: string, usual: T): [T, (value: T) => void] {
  const key = `gatechain ${name}`;
  const [value, setValue] = useState<T>(() => {
    try {
      const found = JSON.parse(localStorage.getItem(key) ?? "null") as unknown;
      const isAlike = found !== null && typeof found === typeof usual && Array.isArray(found) === Array.isArray(usual);
      return isAlike ? (found as T) : usual;
    } catch {
      return usual;
    }
  });
  return [
    value,
    (next) => {
      setValue(next);
      try {
        localStorage.setItem(key, JSON.stringify(next));
      } catch {
        // The browser keeps nothing: then it does not.
      }
    },
  ];
}
