/** Answers to what takes its time: at once, or by the key of the work that is under way. */
import { api, dataOf, Trouble, troubleOf, type Schemas } from "./client";

export type Work = Schemas["WorkView"];
export type OnWork = (work: Work) => void;

const PAUSE = 500; // milliseconds between two looks at what is under way

/** Follows work until it is done; gives how it ended. */
export async function ended(first: Work, onWork: OnWork): Promise<Work> {
  let work = first;
  while (["waiting", "working"].includes(work.stage)) {
    onWork(work);
    await new Promise((later) => setTimeout(later, PAUSE));
    work = await dataOf<Work>(api.GET("/api/work/{key}", { params: { path: { key: first.key } } }));
  }
  return work;
}

/** The answer to a request that may be asked again: it is, after each piece of work that the answer still needs. Undefined
 * where that was stopped; throws what went wrong. */
export async function waited<T>(
  ask: () => Promise<Response>,
  read: (answer: Response) => Promise<T>,
  onWork: OnWork = () => undefined,
): Promise<T | undefined> {
  for (;;) {
    const answer = await asked(ask);
    if (answer.status !== 202) return read(await whole(answer));
    if ((await ended((await answer.json()) as Work, onWork)).stage === "stopped") return undefined;
  }
}

/** The answer to a request that begins something, by the key of its work. Undefined where that was stopped; throws what went
 * wrong. */
export async function begun<T>(
  begin: () => Promise<Response>,
  onWork: OnWork = () => undefined,
): Promise<T | undefined> {
  let answer = await asked(begin);
  while (answer.status === 202) {
    const work = (await answer.json()) as Work;
    if ((await ended(work, onWork)).stage === "stopped") return undefined;
    answer = await asked(() => fetch(`/api/work/${work.key}/answer`));
  }
  return (await (await whole(answer)).json()) as T;
}

/** What is known of an answer, and the work for the rest of it, if any. */
export interface SoFar<T> {
  known: T;
  work?: Work;
}

/** The answer to a question, or as much of it as is known. signal: ends the asking where another question has come: asking on
 * would begin work anew that the other one has put aside. Throws what went wrong. */
export async function answered<T>(address: string, signal: AbortSignal): Promise<SoFar<T>> {
  for (;;) {
    const answer = await whole(await asked(() => fetch(address, { method: "POST", signal })));
    if (answer.status !== 202) return { known: (await answer.json()) as T };
    const work = (await answer.json()) as Work;
    const known = await asked(() => fetch(`/api/work/${work.key}/so-far`, { signal }));
    // 404: it was finished in between, and is asked for once more
    if (known.status !== 404) return { known: (await (await whole(known)).json()) as T, work };
  }
}

export function post(address: string, body?: unknown): Promise<Response> {
  const headers = { "Content-Type": "application/json" };
  return fetch(address, {
    method: "POST",
    ...(body === undefined ? {} : { headers, body: JSON.stringify(body) }),
  });
}

async function whole(answer: Response): Promise<Response> {
  if (answer.ok) return answer;
  throw troubleOf(await answer.json().catch(() => undefined), answer.status);
}

async function asked(ask: () => Promise<Response>): Promise<Response> {
  try {
    return await ask();
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Trouble("Zembra's server does not answer. Is it running?", 0);
  }
}

export function stopWork(key: string): Promise<unknown> {
  return dataOf(api.DELETE("/api/work/{key}", { params: { path: { key } } }));
}
