import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { vi } from "vitest";
import type { Schemas } from "@/api/client";
import { type Person, SignedIn } from "@/app/useSession";
import { system } from "@/ui/theme";

export const person: Person = {
  id: "p1",
  name: "Noor Abernathy-Voss",
  email: "noor@quillonstreet.example",
  takesCalls: true,
  now: "2026-11-25T09:41:07Z",
  clients: [
    {
      id: "c1",
      key: "brackenwheel",
      name: "Brackenwheel Cargo Cycles",
      shortName: "Brackenwheel",
      zone: "Europe/London",
      currency: "GBP",
      targetSeconds: 300,
      role: "marketer",
      may: ["see-watch", "see-leads", "touch-leads", "see-sources", "edit-sources", "see-fuses", "edit-fuses"],
    },
  ],
};

export type Asked = { method: string; path: string; body: unknown };

/** Renders with everything around it that a page has; the API answers by `METHOD /path`, a problem where it is told `{ status, body }`. Returns what was asked. */
export function show(
  what: ReactNode,
  { path = "*", at = "/", answers = {} }: { path?: string; at?: string; answers?: Record<string, unknown> } = {},
): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const address = new URL(request.url).pathname;
    const text = request.method === "GET" ? "" : await request.text();
    asked.push({ method: request.method, path: address, body: text ? JSON.parse(text) : undefined });
    const found = answers[`${request.method} ${address}`] as { status?: number; body?: unknown } | null | undefined;
    if (found === undefined) return new Response("{}", { status: 404 });
    if (found === null) return new Response(null, { status: 204 });
    if (typeof found.status === "number") return new Response(JSON.stringify(found.body), { status: found.status });
    return new Response(JSON.stringify(found), { status: 200, headers: { "content-type": "application/json" } });
  });
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const router = createMemoryRouter(
    [
      { path, element: what },
      { path: "*", element: <div>elsewhere</div> },
    ],
    { initialEntries: [at] },
  );
  render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <SignedIn value={person}>
          <RouterProvider router={router} />
        </SignedIn>
      </QueryClientProvider>
    </ChakraProvider>,
  );
  return asked;
}

/** A lead around which there is nothing to tell. */
export const nothingAround: Schemas["LeadContext"] = {
  values: [],
  addresses: [],
  consents: [],
  twins: [],
  regroups: [],
  owner: null,
  tags: [],
  doNotContactAt: null,
  waitsToConfirm: null,
  confirmExpiresAt: null,
  onlyTo: null,
};
