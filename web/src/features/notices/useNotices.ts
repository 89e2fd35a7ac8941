import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";

/** My notices, newest first, and how many I have not read. */
export const useNotices = () => useQuery({ queryKey: ["notices"], queryFn: () => unwrap(api.GET("/api/notices")) });
