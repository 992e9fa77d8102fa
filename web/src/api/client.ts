import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Patch = Record<string, unknown>[];

export const http = createClient<paths>({ baseUrl: "/" });

/** How this page is known to the server, by which it may ask after its work and stop it. */
const PAGE = crypto.randomUUID();
let token = "";
/** Take the token that changes must carry, so that no page elsewhere can make them. */
export function trust(csrf: string): void {
  token = csrf;
}
http.use({
  onRequest: ({ request }) => {
    request.headers.set("X-Page", PAGE);
    if (!["GET", "HEAD"].includes(request.method)) request.headers.set("X-CSRF-Token", token);
    return request;
  },
});

/** What the server says when it refuses (RFC 9457). */
export interface Problem {
  title: string;
  status: number;
  detail: string;
  errors?: { pointer: string; message: string; sentence: string }[];
  changes?: { version: number; author: string; kind: string }[];
  now?: number;
  /** An edit that met others made meanwhile: what both changed, and the edit written for the draft as it is now. */
  clash?: Meeting | null;
  failing?: string[];
}

export interface Meeting {
  version: number;
  clashes: Schemas["Clash"][];
  on_top: Patch;
  beside: Patch;
}

export class Refusal extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

export interface Outcome<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Return the data of a response, or throw what the server said. */
export function unwrap<T>(outcome: Outcome<T>): T {
  if (outcome.response.ok) return outcome.data as T;
  const said = outcome.error as Partial<Problem> | undefined;
  const { status, statusText } = outcome.response;
  throw new Refusal({ title: statusText, status, detail: said?.detail ?? "The server gave no reason.", ...said } as Problem);
}
