import { useMutation, useQueryClient } from "@tanstack/react-query";

/** Does something at the server, and fetches anew what stands on the screen by these keys. */
export function useAct<TGiven = void, TMade = unknown>(act: (given: TGiven) => Promise<TMade>, ...stale: string[][]) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: act,
    onSettled: () => Promise.all(stale.map((queryKey) => queries.invalidateQueries({ queryKey }))),
  });
}
