import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useReducer, useRef } from "react";
import { api, type Schemas, told } from "@/api/client";
import { history, isDirty } from "./editing";
import type { Definition } from "./sheetLayout";

/** A fuse, whole. */
export function useFuse(fuseId: string) {
  return useQuery({ queryKey: ["fuse", fuseId], queryFn: () => told(api.GET("/api/fuses/{fuseId}", { params: { path: { fuseId } } })) });
}

/** The draft on screen: its history, and saving and arming it. */
export function useDraft(whole: Schemas["FuseWhole"]) {
  const fuseId = whole.fuse.id;
  const queries = useQueryClient();
  const [state, act] = useReducer(history, whole.definition, (d) => ({ past: [], present: d, future: [], saved: d }));
  const revision = useRef(whole.revision);
  const dirty = isDirty(state);
  const moved = whole.revision > revision.current;

  // Somebody else's save is taken over at once while nothing here would be lost by it.
  useEffect(() => {
    if (whole.revision <= revision.current || dirty) return;
    revision.current = whole.revision;
    act({ type: "load", to: whole.definition });
  }, [whole, dirty]);

  const take = (next: Schemas["FuseWhole"]) => {
    revision.current = next.revision;
    queries.setQueryData(["fuse", fuseId], next);
    void queries.invalidateQueries({ queryKey: ["fuses"] });
  };
  const params = { path: { fuseId } };
  const put = async (definition: Definition) => {
    const next = await told(api.PUT("/api/fuses/{fuseId}/draft", { params, body: { definition, revision: revision.current } }));
    take(next);
    act({ type: "saved", as: definition });
    return next;
  };
  return {
    state,
    act,
    dirty,
    moved: moved && dirty,
    save: useMutation({ mutationFn: () => put(state.present) }),
    arm: useMutation({
      mutationFn: async () => {
        if (dirty) await put(state.present);
        const next = await told(api.POST("/api/fuses/{fuseId}/arm", { params, body: { revision: revision.current } }));
        take(next);
        act({ type: "load", to: next.definition });
      },
      onError: () => void queries.invalidateQueries({ queryKey: ["fuse", fuseId] }),
    }),
    disarm: useMutation({ mutationFn: async () => take(await told(api.POST("/api/fuses/{fuseId}/disarm", { params }))) }),
    drop: useMutation({
      mutationFn: async () => {
        const next = await told(api.DELETE("/api/fuses/{fuseId}/draft", { params }));
        take(next);
        act({ type: "load", to: next.definition });
      },
    }),
    loadTheirs: () => {
      revision.current = whole.revision;
      act({ type: "load", to: whole.definition });
    },
  };
}

export type Draft = ReturnType<typeof useDraft>;
