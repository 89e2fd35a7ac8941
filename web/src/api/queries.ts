import { QueryClient } from "@tanstack/react-query";
import { Problem } from "./client";

/** What has been asked of the server, and what it said. A session that has ended is noticed by whoever asks next. */
export const queries: QueryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      retry: (count, error) => !(error instanceof Problem && error.status < 500) && count < 2,
    },
    mutations: {
      onError: (error) => {
        if (error instanceof Problem && error.status === 401) queries.setQueryData(["session"], null);
      },
    },
  },
});
queries.getQueryCache().subscribe((event) => {
  const { error } = event.query.state;
  if (
    event.type === "updated" &&
    event.action.type === "error" &&
    error instanceof Problem &&
    error.status === 401 &&
    event.query.queryKey[0] !== "session"
  ) {
    queries.setQueryData(["session"], null);
  }
});
