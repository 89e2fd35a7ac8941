import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";

/** One lead, whole. */
export function useLead(leadId: string) {
  return useQuery({ queryKey: ["lead", leadId], queryFn: () => unwrap(api.GET("/api/leads/{leadId}", { params: { path: { leadId } } })) });
}
