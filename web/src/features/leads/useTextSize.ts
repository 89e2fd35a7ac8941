import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, unwrap } from "@/api/client";

const afterTyping = 150;

/** How what is typed will be cut for the air, counted by what bills it; the figure before stays until the next is known. */
export function useTextSize(words: string) {
  const [settled, setSettled] = useState(words);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(words), afterTyping);
    return () => clearTimeout(timer);
  }, [words]);
  const found = useQuery({
    queryKey: ["text-size", settled],
    queryFn: () => unwrap(api.POST("/api/leads/text-size", { body: { words: settled } })),
    enabled: settled !== "",
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return settled === "" ? null : (found.data ?? null);
}
