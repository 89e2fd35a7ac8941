import { useSyncExternalStore } from "react";
import type { Clip } from "./moving";

/** What was copied or cut last, in this window or another: it can be put into any fuse. */
const key = "lit-fuse.clip";
const told = "lit-fuse.clip.changed";

let text: string | null = null;
let read: Clip | null = null;

function current(): Clip | null {
  const stored = localStorage.getItem(key);
  if (stored === text) return read;
  text = stored;
  try {
    read = stored ? (JSON.parse(stored) as Clip) : null;
  } catch {
    read = null;
  }
  return read;
}

function subscribe(changed: () => void) {
  window.addEventListener("storage", changed);
  window.addEventListener(told, changed);
  return () => {
    window.removeEventListener("storage", changed);
    window.removeEventListener(told, changed);
  };
}

export function keepClip(clip: Clip) {
  localStorage.setItem(key, JSON.stringify(clip));
  window.dispatchEvent(new Event(told));
}

export const useClip = () => useSyncExternalStore(subscribe, current);
