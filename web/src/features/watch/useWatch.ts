import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";
import { noteServerNow } from "@/ui/serverClock";

/** Who is in the air. */
export function useWatch(clientKey: string | undefined) {
  return useQuery({
    queryKey: ["watch", clientKey ?? ""],
    refetchInterval: 30_000,
    queryFn: async () => {
      const page = await unwrap(api.GET("/api/watch", { params: { query: { client: clientKey } } }));
      noteServerNow(page.now);
      return page;
    },
  });
}

/** How today goes; not fetched with every change. */
export function useToday(clientKey: string | undefined) {
  return useQuery({
    queryKey: ["today", clientKey ?? ""],
    refetchInterval: 20_000,
    queryFn: () => unwrap(api.GET("/api/watch/today", { params: { query: { client: clientKey } } })),
  });
}
