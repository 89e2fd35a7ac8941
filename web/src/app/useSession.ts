import { type QueryClient, queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { noteServerNow } from "@/ui/serverClock";

export type Person = Schemas["SessionPerson"];
export type Act = Schemas["Act"];

/** The question who is signed in. */
export const sessionAsked = queryOptions<Person | null>({
  queryKey: ["session"],
  staleTime: Number.POSITIVE_INFINITY,
  queryFn: async () => {
    try {
      const person = await unwrap(api.GET("/api/session"));
      noteServerNow(person.now);
      return person;
    } catch (error) {
      if (error instanceof Problem && error.status === 401) return null;
      throw error;
    }
  },
});

/** Who is signed in: `undefined` while it is asked, `null` for nobody. */
export const useSession = () => useQuery(sessionAsked);

/** The person whom the gate let in. A page never looks at the session itself: as they sign out it would see that before it is gone. */
export const SignedIn = createContext<Person | null>(null);

/** The person signed in, where a page is only shown to one. */
export function usePerson(): Person {
  const person = useContext(SignedIn);
  if (!person) throw new Error("Nobody is signed in.");
  return person;
}

/** Whether the person may do this for any client, or for one. */
export const may = (person: Person, act: Act, clientId?: string) =>
  person.clients.some((c) => (clientId === undefined || c.id === clientId) && c.may.includes(act));

// The session's own query stays: the gate is looking at it.
function forgetAllBut(queries: QueryClient, person: Person | null) {
  queries.setQueryData(["session"], person);
  queries.removeQueries({ predicate: (q) => q.queryKey[0] !== "session" });
}

export function useSignIn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["SignIn"]) => unwrap(api.POST("/api/session", { body })),
    onSuccess: (person) => {
      noteServerNow(person.now);
      forgetAllBut(queries, person);
    },
    onError: () => undefined,
  });
}

/** Be available for calls, or not. */
export function useTakesCalls() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (takes: boolean) => unwrap(api.PUT("/api/session/calls", { body: { takes } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["session"] }),
  });
}

export function useSignOut() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(api.DELETE("/api/session")),
    onSuccess: () => {
      forgetAllBut(queries, null);
    },
  });
}
