import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";

export type LinesOf = { client?: string | undefined; form?: string; fuse?: string; connection?: string };

/** Lines, cut ones first; of a form, a fuse or a connection where one is named. */
export const useLines = (of: LinesOf) =>
  useQuery({
    queryKey: ["lines", of.client ?? "", of.form ?? "", of.fuse ?? "", of.connection ?? ""],
    queryFn: () => unwrap(api.GET("/api/lines", { params: { query: of } })),
  });

/** The line of a form with all that is known about it. */
export const useLine = (formId: string) =>
  useQuery({
    queryKey: ["line", formId],
    queryFn: () => unwrap(api.GET("/api/forms/{formId}/line", { params: { path: { formId } } })),
  });
