/** Sending a file, following how it is read, and asking again what was understood. */
import { api, told, troubleOf, type Ledger, type Schemas, type Understanding } from "../api/client";

export type How = Schemas["HowRead"];
export type Reading = Schemas["JobView"];
type Asked = Partial<Schemas["UnderstandRequest"]>;

const PAUSE = 400;

/** Bring in a file or a demo file; `onReading` is told how far a large one is, and holds the way to stop it. */
export async function bringIn(
  source: File | string,
  onReading: (reading: Reading) => void,
): Promise<Understanding> {
  let answer = await send(source);
  while (answer.status === 202) {
    const reading = (await answer.json()) as Reading;
    onReading(reading);
    await new Promise((done) => setTimeout(done, PAUSE));
    answer = await fetch(`/api/jobs/${reading.id}`);
  }
  const body: unknown = await answer.json().catch(() => undefined);
  if (!answer.ok) throw troubleOf(body, answer.status);
  return body as Understanding;
}

function send(source: File | string): Promise<Response> {
  if (typeof source === "string")
    return fetch(`/api/demo-files/${encodeURIComponent(source)}`, { method: "POST" });
  const form = new FormData();
  form.append("file", source);
  return fetch("/api/datasets", { method: "POST", body: form });
}

export async function stopReading(id: string): Promise<void> {
  await told(api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: id } } }));
}

/** A table pasted from a spreadsheet or a text, as a file. */
export function pastedFile(text: string): File {
  return new File([text], "pasted table.txt", { type: "text/plain" });
}

export function understand(id: number, asked: Asked): Promise<Understanding> {
  const body = {
    how: null,
    table: null,
    sheet: null,
    kind: null,
    ledger: null,
    answer: null,
    as_of: null,
    ...asked,
  };
  return told<Understanding>(
    api.POST("/api/datasets/{dataset_id}/understanding", { params: { path: { dataset_id: id } }, body }),
  );
}

export async function keepWay(name: string, id: number, how: How, ledger: Ledger): Promise<void> {
  await told(api.POST("/api/ways", { body: { name, dataset_id: id, how, ledger } }));
}
