import { useSearchParams } from "react-router";
import { type Person, usePerson } from "@/app/useSession";

/** The client that the page is narrowed to, as the address says (`?client=brackenwheel`); `null` for all. */
export function useChosenClient() {
  const person = usePerson();
  const [search] = useSearchParams();
  return chosenOf(person, search.get("client"));
}

/** The client meant by a key. Who has only one client has always chosen it. */
export function chosenOf(person: Person, key: string | null) {
  if (person.clients.length === 1) return person.clients[0] ?? null;
  return person.clients.find((c) => c.key === key) ?? null;
}

/** An address that keeps the client chosen. */
export const withClient = (path: string, clientKey: string | undefined) =>
  clientKey === undefined ? path : `${path}${path.includes("?") ? "&" : "?"}client=${encodeURIComponent(clientKey)}`;
