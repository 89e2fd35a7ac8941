import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "@/api/client";

export type Call = Schemas["CallShown"];

/** Calls that go on now. */
export function useCalls(clientKey?: string) {
  return useQuery({
    queryKey: ["calls", clientKey ?? ""],
    refetchInterval: 10_000,
    queryFn: () => unwrap(api.GET("/api/calls", { params: { query: { client: clientKey } } })),
  });
}

/** Hang a call up. */
export function useHangUp() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (callId: string) => unwrap(api.POST("/api/calls/{callId}/hang-up", { params: { path: { callId } } })),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["calls"] }),
  });
}

/** Have my phone rung, then theirs. */
export function useRing(leadId: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(api.POST("/api/leads/{leadId}/ring", { params: { path: { leadId } } })),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["calls"] }),
  });
}
