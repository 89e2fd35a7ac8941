import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "@/api/client";

/** What narrows the list of deliveries; every part stands in the address. */
export const narrowing = ["state", "connection", "lane", "search", "from", "to"] as const;
export type Narrowing = Partial<Record<(typeof narrowing)[number], string>>;
export type DeliveryFilter = Schemas["DeliveryFilter"];

/** Reads it from the address. */
export function narrowingOf(search: URLSearchParams): Narrowing {
  const found: Narrowing = {};
  for (const key of narrowing) {
    const value = search.get(key);
    if (value) found[key] = value;
  }
  return found;
}

/** A day and clock as written in the page, in the reader's zone; nothing where it is none. */
export function moment(local: string | undefined): string | undefined {
  const at = local ? new Date(local) : null;
  return at && !Number.isNaN(at.getTime()) ? at.toISOString() : undefined;
}

/** As the server takes it. */
export function filterOf(client: string | undefined, n: Narrowing): DeliveryFilter {
  return {
    client: client ?? null,
    connection: n.connection ?? null,
    state: n.state ?? null,
    lane: n.lane ?? null,
    lead: null,
    search: n.search ?? null,
    from: moment(n.from) ?? null,
    to: moment(n.to) ?? null,
  };
}

const defined = <T extends object>(of: T) =>
  Object.fromEntries(Object.entries(of).filter(([, v]) => v !== null && v !== undefined)) as {
    [K in keyof T]?: NonNullable<T[K]>;
  };

export const useDeliveries = (client: string | undefined, n: Narrowing) =>
  useInfiniteQuery({
    queryKey: ["deliveries", client ?? "", JSON.stringify(n)],
    initialPageParam: undefined as string | undefined,
    placeholderData: keepPreviousData,
    queryFn: ({ pageParam }) =>
      unwrap(
        api.GET("/api/deliveries", { params: { query: { ...defined(filterOf(client, n)), ...(pageParam ? { after: pageParam } : {}) } } }),
      ),
    getNextPageParam: (page) => page.next ?? undefined,
  });

export const useDelivery = (id: string) =>
  useQuery({
    queryKey: ["deliveries", "one", id],
    queryFn: () => unwrap(api.GET("/api/deliveries/{deliveryId}", { params: { path: { deliveryId: id } } })),
  });
