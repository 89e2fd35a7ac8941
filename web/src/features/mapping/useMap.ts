import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { type Draft, toRows } from "./draft";

export const useMap = (formId: string) =>
  useQuery({
    queryKey: ["form", formId, "map"],
    queryFn: () => unwrap(api.GET("/api/forms/{formId}/map", { params: { path: { formId } } })),
  });

/** What the draft gives for each sample, as it is typed. */
export function useTried(formId: string, draft: Draft | null) {
  const rows = useDeferredValue(draft);
  return useQuery({
    queryKey: ["tried", formId, JSON.stringify(rows)],
    enabled: rows !== null && rows.rows.length > 0,
    placeholderData: (before: Schemas["TriedMap"] | undefined) => before,
    queryFn: () =>
      unwrap(
        api.POST("/api/forms/{formId}/map/try", {
          params: { path: { formId } },
          body: { rows: toRows(rows as Draft), locale: rows?.locale || null },
        }),
      ),
  });
}
