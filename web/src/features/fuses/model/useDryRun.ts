import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import type { Definition } from "./sheetLayout";

export type Who = { leadId: string } | { form: string; answers: Record<string, string> };

/** One lead through the fuse as it stands on the sheet; looked at again whenever anything about it changes. */
export function useDryRun(fuseId: string, definition: Definition, open: boolean) {
  const [who, setWho] = useState<Who | null>(null);
  const [at, setAt] = useState("");
  const [reactions, setReactions] = useState<Schemas["DryReaction"][]>([]);
  // How many moments have been pressed through; null: to the end.
  const [place, setPlace] = useState<number | null>(null);
  const body = {
    definition,
    leadId: who && "leadId" in who ? who.leadId : null,
    form: who && "form" in who ? who.form : null,
    answers: who && "form" in who ? who.answers : null,
    at: at || null,
    reactions,
  };
  const run = useQuery({
    queryKey: ["dry-run", fuseId, body],
    enabled: open && who !== null && (!("form" in who) || Object.values(who.answers).some((a) => a !== "")),
    placeholderData: (before) => before,
    retry: false,
    queryFn: () => unwrap(api.POST("/api/fuses/{fuseId}/dry-run", { params: { path: { fuseId } }, body })),
  });
  return { who, setWho, at, setAt, reactions, setReactions, place, setPlace, told: run.data, error: run.error };
}

export type DryRun = ReturnType<typeof useDryRun>;
