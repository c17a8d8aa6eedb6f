import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Bench = Schemas["BenchView"];
export type Entry = Schemas["EntryView"];
export type Figure = Schemas["Figure"];
export type FigureSettings = Schemas["FigureSettings"];
export type Ledger = Schemas["Ledger"];
export type Record_ = Schemas["Record"];
export type Slot = Schemas["SlotView"];
export type Part = Schemas["PartView"];
export type Understanding = Schemas["Understanding"];
export type Params = { [word: string]: unknown };

export const api = createClient<paths>({ baseUrl: "" });

/** A problem the server told (RFC 9457), or that it could not be reached. */
export class Trouble extends Error {
  constructor(
    readonly detail: string,
    readonly status: number,
    readonly place?: string | null,
    readonly todo?: string | null,
    readonly head?: number | null,
  ) {
    super(detail);
  }
}

/** The answer's data, or the problem as a Trouble. */
export async function dataOf<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let answer;
  try {
    answer = await call;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Trouble("Zembra's server does not answer. Is it running?", 0);
  }
  if (answer.response.ok) return answer.data as T;
  throw troubleOf(answer.error, answer.response.status);
}

export function troubleOf(error: unknown, status: number): Trouble {
  const problem = (error ?? {}) as Partial<Schemas["Problem"]>;
  return new Trouble(
    problem.detail ?? `The server answered with ${status}.`,
    status,
    problem.place,
    problem.todo,
    problem.head,
  );
}
