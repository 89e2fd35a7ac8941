import { useSyncExternalStore } from "react";

/** Something kept on this device and told to every window of it. What is stored and cannot be read is as if it were not there. */
export function kept<T>(key: string, otherwise: T) {
  const told = `${key}.changed`;
  let text: string | null = null;
  let value = otherwise;
  const read = (): T => {
    const stored = localStorage.getItem(key);
    if (stored === text) return value;
    text = stored;
    try {
      value = stored ? (JSON.parse(stored) as T) : otherwise;
    } catch {
      value = otherwise;
    }
    return value;
  };
  const subscribe = (changed: () => void) => {
    window.addEventListener("storage", changed);
    window.addEventListener(told, changed);
    return () => {
      window.removeEventListener("storage", changed);
      window.removeEventListener(told, changed);
    };
  };
  return {
    read,
    keep: (next: T) => {
      localStorage.setItem(key, JSON.stringify(next));
      window.dispatchEvent(new Event(told));
    },
    use: () => useSyncExternalStore(subscribe, read),
  };
}
