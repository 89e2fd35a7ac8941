import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";

const most = 50;

/** Those who asked last of a client, to try a fuse or a step of it with. */
export function useLatestLeads(client: string) {
  const leads = useQuery({
    queryKey: ["leads", client, "to try with"],
    queryFn: () => unwrap(api.GET("/api/leads", { params: { query: { client } } })),
  });
  return (leads.data?.items ?? []).slice(0, most);
}
