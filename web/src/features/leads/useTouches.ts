import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, unwrap } from "@/api/client";

/** What a person does with a lead. Each says so to the screens that show it. */
export function useTouches(leadId: string) {
  const queries = useQueryClient();
  const settled = () => {
    for (const queryKey of [["watch"], ["lead", leadId], ["leads"], ["frame"]]) void queries.invalidateQueries({ queryKey });
  };
  const params = { path: { leadId } };
  return {
    take: useMutation({ mutationFn: () => unwrap(api.POST("/api/leads/{leadId}/take", { params })), onSettled: settled }),
    release: useMutation({ mutationFn: () => unwrap(api.POST("/api/leads/{leadId}/release", { params })), onSettled: settled }),
    touch: useMutation({
      mutationFn: (how: "spoke" | "called" | "wrote") => unwrap(api.POST("/api/leads/{leadId}/touch", { params, body: { how } })),
      onSettled: settled,
    }),
    text: useMutation({
      mutationFn: (words: string) => unwrap(api.POST("/api/leads/{leadId}/texts", { params, body: { words } })),
      onSettled: settled,
    }),
    optOut: useMutation({ mutationFn: () => unwrap(api.POST("/api/leads/{leadId}/opt-out", { params })), onSettled: settled }),
  };
}
