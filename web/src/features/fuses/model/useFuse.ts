import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useReducer, useRef, useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { type Edit, history, isDirty } from "./editing";
import { fuseAsked } from "./fuseAsked";
import type { Definition } from "./sheetLayout";

/** A fuse, whole. */
export const useFuse = (fuseId: string) => useQuery(fuseAsked(fuseId));

/** The draft on screen: its history, and saving and arming it. */
export function useDraft(whole: Schemas["FuseDetail"], mayEdit: boolean) {
  const fuseId = whole.fuse.id;
  const queries = useQueryClient();
  const [state, apply] = useReducer(history, whole.definition, (d) => ({ past: [], present: d, future: [], saved: d }));
  // What was refused last; gone with the next edit or the next try.
  const [refused, setRefused] = useState<unknown>(null);
  const act = (edit: Edit) => {
    setRefused(null);
    apply(edit);
  };
  // Saving and arming go one after the other, each from what the one before was answered: nobody stands in their own way.
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const inTurn = <T>(act: () => Promise<T>): Promise<T> => {
    const next = last.current.then(act, act);
    last.current = next.catch(() => undefined);
    return next;
  };
  const asked = { onMutate: () => setRefused(null), onError: (error: unknown) => setRefused(error) };
  const revision = useRef(whole.revision);
  // What the server has, as the very object: what was saved meanwhile is not sent again.
  const kept = useRef(whole.definition);
  const dirty = isDirty(state);
  const moved = whole.revision > revision.current;

  // Somebody else's save is taken over at once while nothing here would be lost by it.
  useEffect(() => {
    if (whole.revision <= revision.current || dirty) return;
    revision.current = whole.revision;
    kept.current = whole.definition;
    apply({ type: "load", to: whole.definition });
  }, [whole, dirty]);

  const take = (next: Schemas["FuseDetail"]) => {
    revision.current = next.revision;
    kept.current = next.definition;
    queries.setQueryData(["fuse", fuseId], next);
    void queries.invalidateQueries({ queryKey: ["fuses"] });
  };
  const params = { path: { fuseId } };
  const put = async (definition: Definition) => {
    if (definition === kept.current) return;
    take(await unwrap(api.PUT("/api/fuses/{fuseId}/draft", { params, body: { definition, revision: revision.current } })));
    kept.current = definition;
    act({ type: "saved", as: definition });
  };
  const save = useMutation({ ...asked, mutationFn: () => inTurn(() => put(state.present)) });

  // Kept by itself once typing rests. What was refused waits for the next edit, or for a person.
  const { mutate, isPending } = save;
  const arm = useMutation({
    ...asked,
    mutationFn: (alsoDays: number | null) =>
      inTurn(async () => {
        if (dirty) await put(state.present);
        const next = await unwrap(api.POST("/api/fuses/{fuseId}/arm", { params, body: { revision: revision.current, alsoDays } }));
        take(next);
        act({ type: "load", to: next.definition });
      }),
    onError: (error) => {
      setRefused(error);
      void queries.invalidateQueries({ queryKey: ["fuse", fuseId] });
    },
  });
  // What is told of while our own save is on its way may be that very save.
  const theirs = moved && dirty && !isPending && !arm.isPending;
  const rests = mayEdit && dirty && !theirs && refused === null && !isPending && !arm.isPending;
  // biome-ignore lint/correctness/useExhaustiveDependencies: each edit begins the wait anew
  useEffect(() => {
    if (!rests) return;
    const timer = setTimeout(() => mutate(), 1200);
    return () => clearTimeout(timer);
  }, [rests, state.present, mutate]);
  return {
    state,
    act,
    dirty,
    moved: theirs,
    refused,
    save,
    arm,
    fromFile: useMutation({
      ...asked,
      mutationFn: async (file: string) => {
        const next = await unwrap(
          api.PUT("/api/fuses/{fuseId}/draft", { params, body: { definition: null, revision: revision.current, file } }),
        );
        take(next);
        act({ type: "edit", to: next.definition });
        act({ type: "saved", as: next.definition });
      },
    }),
    disarm: useMutation({ ...asked, mutationFn: async () => take(await unwrap(api.POST("/api/fuses/{fuseId}/disarm", { params }))) }),
    drop: useMutation({
      ...asked,
      mutationFn: async () => {
        const next = await unwrap(api.DELETE("/api/fuses/{fuseId}/draft", { params }));
        take(next);
        act({ type: "load", to: next.definition });
      },
    }),
    loadTheirs: () => {
      revision.current = whole.revision;
      kept.current = whole.definition;
      act({ type: "load", to: whole.definition });
    },
  };
}

export type Draft = ReturnType<typeof useDraft>;
