import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "@/api/client";

/** What narrows the list of burns; every part stands in the address. */
export type Narrowing = { fuse?: string; band?: string; state?: string };

export function narrowingOf(search: URLSearchParams): Narrowing {
  const found: Narrowing = {};
  for (const key of ["fuse", "band", "state"] as const) {
    const value = search.get(key);
    if (value) found[key] = value;
  }
  return found;
}

export const useBurns = (client: string | undefined, n: Narrowing) =>
  useInfiniteQuery({
    queryKey: ["burns", client ?? "", JSON.stringify(n)],
    initialPageParam: undefined as string | undefined,
    placeholderData: keepPreviousData,
    queryFn: ({ pageParam }) =>
      unwrap(
        api.GET("/api/burns", { params: { query: { ...(client ? { client } : {}), ...n, ...(pageParam ? { after: pageParam } : {}) } } }),
      ),
    getNextPageParam: (page) => page.next ?? undefined,
  });

export const useBurn = (id: string) =>
  useQuery({ queryKey: ["burns", "one", id], queryFn: () => unwrap(api.GET("/api/burns/{burnId}", { params: { path: { burnId: id } } })) });

export const useBurnCounts = (fuseId: string, open: boolean) =>
  useQuery({
    queryKey: ["burns", "counts", fuseId],
    enabled: open,
    queryFn: () => unwrap(api.GET("/api/fuses/{fuseId}/burn-counts", { params: { path: { fuseId } } })),
  });

export const states = [
  ["", "all burns"],
  ["burning", "those burning"],
  ["held", "those held for a person"],
  ["set-aside", "those set aside: deciding failed"],
  ["listening", "those that only listen"],
  ["failed", "those in which a step failed"],
  ["stopped", "those that were stopped"],
  ["done", "those that came to their end"],
] as const;

/** How a burn stands, in a word and with its meaning. */
export function standing(row: Schemas["BurnRow"]): { word: string; of: "whole" | "broken" | "waiting" } {
  if (row.setAside) return { word: "set aside", of: "broken" };
  if (row.held) return { word: "held", of: "waiting" };
  if (row.failed > 0) return { word: row.failed === 1 ? "1 step failed" : `${row.failed} steps failed`, of: "broken" };
  if (row.status === "burning") return { word: "burning", of: "whole" };
  if (row.status === "listening") return { word: "listening", of: "waiting" };
  if (row.stop) return { word: "stopped", of: "waiting" };
  return { word: "ended", of: "whole" };
}

/** What its steps have come to: `3 done, 1 waits`. */
export function stepsWords(row: Schemas["BurnRow"]): string {
  const parts = [
    [row.done, "done"],
    [row.sent, "under way"],
    [row.waiting, row.waiting === 1 ? "waits" : "wait"],
    [row.failed, "failed"],
    [row.cancelled, "cancelled"],
  ] as const;
  return (
    parts
      .filter(([n]) => n > 0)
      .map(([n, word]) => `${n} ${word}`)
      .join(", ") || "no step"
  );
}
