import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";
import { noteServerNow } from "@/ui/serverClock";

/** Counts for the strip and the rail. */
export function useFrame(clientKey: string | undefined) {
  return useQuery({
    queryKey: ["frame", clientKey ?? ""],
    refetchInterval: 30_000,
    placeholderData: (before) => before,
    queryFn: async () => {
      const frame = await unwrap(api.GET("/api/frame", { params: { query: { client: clientKey } } }));
      noteServerNow(frame.now);
      return frame;
    },
  });
}
