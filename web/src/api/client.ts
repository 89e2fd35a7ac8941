import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** A refusal, as Problem Details (RFC 9457) tell it. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly title: string,
    readonly detail: string | undefined,
    readonly mend: string | undefined,
    readonly more: Record<string, unknown>,
  ) {
    super(detail ?? title);
  }

  /** The fault of one field, where the input was bad. */
  fieldError(field: string): string | null {
    const errors = this.more.errors as Record<string, string[]> | undefined;
    return errors?.[field]?.[0] ?? null;
  }

  static from(status: number, body: unknown): Problem {
    const told = (typeof body === "object" && body !== null ? body : {}) as Record<string, unknown>;
    const text = (key: string) => (typeof told[key] === "string" ? (told[key] as string) : undefined);
    return new Problem(
      status,
      text("code") ?? String(status),
      text("title") ?? `The server answered ${status}.`,
      text("detail"),
      text("mend"),
      told,
    );
  }
}

/** What a request that writes sends along as `X-XSRF-TOKEN`. */
export const tokenFromCookie = () => {
  const found = document.cookie.split("; ").find((c) => c.startsWith("XSRF-TOKEN="));
  return found ? decodeURIComponent(found.slice("XSRF-TOKEN=".length)) : "";
};

export const api = createClient<paths>({
  baseUrl: globalThis.location?.origin ?? "",
  credentials: "same-origin",
  fetch: (request) => globalThis.fetch(request),
});

api.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-XSRF-TOKEN", tokenFromCookie());
    return request;
  },
});

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The answer's content, or its refusal thrown as a {@link Problem}. */
export async function unwrap<T>(asked: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await asked;
  if (!response.ok) throw Problem.from(response.status, error);
  return data as T;
}
