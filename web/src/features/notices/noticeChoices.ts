import { useSyncExternalStore } from "react";

/** How notices make themselves known on this device. */
export type NoticeChoices = {
  /** A short tone with each. */
  sound: boolean;
  /** Shown by the browser while this page is open behind others. */
  outside: boolean;
};

const key = "lit-fuse.notices";
const told = "lit-fuse.notices.changed";
const none: NoticeChoices = { sound: false, outside: false };

let text: string | null = null;
let read: NoticeChoices = none;

/** As they are chosen; nothing is until somebody does. */
export function noticeChoices(): NoticeChoices {
  const stored = localStorage.getItem(key);
  if (stored === text) return read;
  text = stored;
  try {
    read = stored ? { ...none, ...(JSON.parse(stored) as Partial<NoticeChoices>) } : none;
  } catch {
    read = none;
  }
  return read;
}

export function keepNoticeChoices(choices: Partial<NoticeChoices>) {
  localStorage.setItem(key, JSON.stringify({ ...noticeChoices(), ...choices }));
  window.dispatchEvent(new Event(told));
}

function subscribe(changed: () => void) {
  window.addEventListener("storage", changed);
  window.addEventListener(told, changed);
  return () => {
    window.removeEventListener("storage", changed);
    window.removeEventListener(told, changed);
  };
}

export const useNoticeChoices = () => useSyncExternalStore(subscribe, noticeChoices);
