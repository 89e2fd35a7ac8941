import { queryOptions } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";

/** The question for one fuse, whole. Apart from its page, so that it can be asked while the page is still on its way. */
export const fuseAsked = (fuseId: string) =>
  queryOptions({
    queryKey: ["fuse", fuseId],
    queryFn: () => unwrap(api.GET("/api/fuses/{fuseId}", { params: { path: { fuseId } } })),
  });
