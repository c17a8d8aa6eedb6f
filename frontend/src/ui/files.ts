/** Files that are handed over. */
import { Trouble } from "../api/client";
import { waited, type OnWork } from "../api/waiting";

interface HandedFile {
  name: string;
  data: Blob;
}

type More = Record<string, string | number>;

/** A file of a study, to be looked at. more: what else is asked for, by name. onWork: told how far a large one is. */
export function fetchFile(
  study: number,
  name: string,
  more: More = {},
  onWork?: OnWork,
): Promise<HandedFile> {
  return made("GET", study, name, more, onWork);
}

/** A file of a study, handed over: what it projects was said then. */
export function handOver(study: number, name: string, more: More = {}, onWork?: OnWork): Promise<HandedFile> {
  return made("POST", study, name, more, onWork);
}

async function made(
  method: "GET" | "POST",
  study: number,
  name: string,
  more: More,
  onWork?: OnWork,
): Promise<HandedFile> {
  const asked = new URLSearchParams(Object.entries(more).map(([key, value]) => [key, String(value)]));
  const address = `/api/studies/${study}/handover/${name}?${asked.toString()}`;
  const file = await waited(() => fetch(address, { method }), read(name), onWork);
  if (file === undefined) throw new Trouble(`${name} was stopped.`, 0);
  return file;
}

function read(name: string): (answer: Response) => Promise<HandedFile> {
  return async (answer) => {
    const named = /filename="([^"]+)"/.exec(answer.headers.get("content-disposition") ?? "");
    return { name: named?.[1] ?? name, data: await answer.blob() };
  };
}

export function save({ name, data }: HandedFile): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(data);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
