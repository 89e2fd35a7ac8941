import { useQuery } from "@tanstack/react-query";
import { api, told } from "@/api/client";

/** My notices, newest first, and how many I have not read. */
export const useNotices = () => useQuery({ queryKey: ["notices"], queryFn: () => told(api.GET("/api/notices")) });
