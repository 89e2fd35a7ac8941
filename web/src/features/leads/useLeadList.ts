import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";

/** What narrows a list of leads; every part stands in the address. */
export const narrowing = ["q", "state", "form", "source", "owner", "tag", "tests", "since", "until", "field", "is", "sort"] as const;
export type Narrowing = Partial<Record<(typeof narrowing)[number], string>>;

/** Reads it from the address. */
export function narrowingOf(search: URLSearchParams): Narrowing {
  const found: Narrowing = {};
  for (const key of narrowing) {
    const value = search.get(key);
    if (value) found[key] = value;
  }
  return found;
}

export const useLeadList = (client: string | undefined, filter: Narrowing, page: number) =>
  useQuery({
    queryKey: ["leads", client ?? "", JSON.stringify(filter), page],
    placeholderData: (before) => before,
    queryFn: () => unwrap(api.GET("/api/leads", { params: { query: { client, ...filter, page } } })),
  });

export const useLeadChoices = (client: string | undefined) =>
  useQuery({
    queryKey: ["leads", "choices", client ?? ""],
    queryFn: () => unwrap(api.GET("/api/leads/choices", { params: { query: { client } } })),
  });

/** Where the file of the leads shown is. */
export function exportUrl(format: "csv" | "xlsx", client: string | undefined, filter: Narrowing, columns: readonly string[]): string {
  const query = new URLSearchParams({ format, columns: columns.join(",") });
  if (client) query.set("client", client);
  for (const [key, value] of Object.entries(filter)) query.set(key, value);
  return `/api/leads/export?${query}`;
}
