import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, unwrap } from "@/api/client";

const often = 20_000;

/** Who else has this sheet open; says at the same time that one is here oneself, and whether one edits. */
export function useHere(fuseId: string, edits: boolean) {
  const latest = useRef(edits);
  latest.current = edits;
  const say = (left: boolean) =>
    unwrap(
      api.POST("/api/fuses/{fuseId}/here", {
        params: { path: { fuseId } },
        body: { edited: latest.current && !left, left },
        keepalive: left,
      }),
    );
  const here = useQuery({
    queryKey: ["here", fuseId, edits],
    refetchInterval: often,
    staleTime: often,
    retry: false,
    queryFn: () => say(false),
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, as the sheet is left
  useEffect(() => {
    const leave = () => void say(true).catch(() => undefined);
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [fuseId]);
  return here.data?.people ?? [];
}
