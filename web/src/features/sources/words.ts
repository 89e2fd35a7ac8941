import type { Schemas } from "@/api/client";

/** Where an access stands, in a word, and whether that is good. */
export function accessWord(state: Schemas["ConnectionState"] | null): { word: string; of: "whole" | "broken" | "waiting" } | null {
  switch (state) {
    case null:
      return null;
    case "whole":
      return { word: "access whole", of: "whole" };
    case "partial":
      return { word: "access in part", of: "broken" };
    case "expired":
      return { word: "access ran out", of: "broken" };
    case "withdrawn":
      return { word: "access taken back", of: "broken" };
    case "unreachable":
      return { word: "not reachable", of: "waiting" };
  }
}

/** What there is to look at on a form, most pressing first. */
export function toLookAt(form: Schemas["FormRow"]): { word: string; of: "broken" | "waiting" | "plain" }[] {
  const list: { word: string; of: "broken" | "waiting" | "plain" }[] = [];
  if (form.map !== "confirmed" && form.state === "receiving") list.push({ word: "map not confirmed", of: "broken" });
  if (form.state === "paused") list.push({ word: "paused", of: "waiting" });
  if (form.archivedAt) list.push({ word: "archived there", of: "broken" });
  else if (form.adState && form.adState !== "running")
    list.push({ word: form.adState === "waiting" ? "ad awaits approval" : "ad stopped", of: "waiting" });
  if (form.built && !form.published) list.push({ word: "not published", of: "waiting" });
  if (form.waiting > 0) list.push({ word: `${form.waiting} waiting`, of: "waiting" });
  if (form.unreadable > 0) list.push({ word: `${form.unreadable} unreadable`, of: "broken" });
  if (form.emptyVisits > 0)
    list.push({ word: form.emptyVisits === 1 ? "1 empty visit" : `${form.emptyVisits} empty visits`, of: "broken" });
  return list;
}

const viaWords: Record<string, string> = {
  door: "sent to us",
  fetched: "we were told, and fetched it",
  polled: "we asked for it",
  "passed-through": "carried by the visitor",
  import: "from a file",
  hand: "typed in",
  api: "with a key",
  test: "a test from here",
  recovered: "recovered from the network's own list",
};

/** How a submission came, in words. */
export const viaWord = (via: string) => viaWords[via] ?? via;

/** What the address of a page says happened on the way back from a network's consent page. */
export function backWord(told: string | null): { said: string; good: boolean } | null {
  switch (told) {
    case "connected":
      return { said: "Connected. Choose what you want from it below.", good: true };
    case "refused":
      return { said: "On the network's page you pressed Refuse, so nothing is connected. Press Connect to try again.", good: false };
    case "stale":
      return { said: "That took longer than fifteen minutes, or somebody else was signed in here. Press Connect once more.", good: false };
    case "broken":
      return {
        said: "The network did not complete the connection. Press Connect to try again; if it stays, the network may be in trouble.",
        good: false,
      };
    default:
      return null;
  }
}
