/** Files that are handed over. */
import { api, told, Trouble, troubleOf, type Schemas } from "../api/client";

export interface HandedFile {
  name: string;
  data: Blob;
}

type Work = Schemas["WorkView"];

const LOOKED = 600; // milliseconds between two looks at what is being made

/** A file of a study. more: what else is asked for, by name. onWork: told how far a large one is. */
export async function fetchFile(
  study: number,
  name: string,
  more: Record<string, string | number> = {},
  onWork: (work: Work) => void = () => undefined,
): Promise<HandedFile> {
  const asked = new URLSearchParams(Object.entries(more).map(([key, value]) => [key, String(value)]));
  for (;;) {
    const answer = await fetch(`/api/studies/${study}/handover/${name}?${asked.toString()}`);
    if (answer.status === 202) {
      const work = (await answer.json()) as Work;
      if (await ended(work, onWork)) throw new Trouble(`${name} was stopped.`, 0);
      continue;
    }
    if (!answer.ok) throw troubleOf(await answer.json(), answer.status);
    const told = /filename="([^"]+)"/.exec(answer.headers.get("content-disposition") ?? "");
    return { name: told?.[1] ?? name, data: await answer.blob() };
  }
}

/** What is made elsewhere: asked for again whenever what it still needs is done. Undefined where that was stopped. */
export async function made<T extends object>(
  ask: () => Promise<T | Work>,
  onWork: (work: Work) => void = () => undefined,
): Promise<T | undefined> {
  for (;;) {
    const answer = await ask();
    if (!("stage" in answer)) return answer;
    if (await ended(answer, onWork)) return undefined;
  }
}

/** Follows work until it is done; true where it was stopped. */
export async function ended(first: Work, onWork: (work: Work) => void): Promise<boolean> {
  let work = first;
  while (["waiting", "working"].includes(work.stage)) {
    onWork(work);
    await new Promise((later) => setTimeout(later, LOOKED));
    work = await told<Work>(api.GET("/api/work/{key}", { params: { path: { key: first.key } } }));
  }
  return work.stage === "stopped";
}

export function stopWork(key: string): Promise<unknown> {
  return told(api.DELETE("/api/work/{key}", { params: { path: { key } } }));
}

export function save({ name, data }: HandedFile): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(data);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
