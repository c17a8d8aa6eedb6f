/** Sending a file, following how it is read, and asking again what was understood. */
import { api, dataOf, Trouble, type Ledger, type Schemas, type Understanding } from "../api/client";
import { begun, post, type OnWork } from "../api/waiting";

export type How = Schemas["HowRead"];
type Asked = Partial<Schemas["UnderstandRequest"]>;

/** Bring in a file or a demo file; `onWork` is told how far a large one is, and its key stops it. */
export async function bringIn(source: File | string, onWork: OnWork): Promise<Understanding> {
  const understood = await begun<Understanding>(() => send(source), onWork);
  if (understood === undefined) throw new Trouble("Reading was stopped; nothing of the file was kept.", 0);
  return understood;
}

function send(source: File | string): Promise<Response> {
  if (typeof source === "string") return post(`/api/demo-files/${encodeURIComponent(source)}`);
  const form = new FormData();
  form.append("file", source);
  return fetch("/api/datasets", { method: "POST", body: form });
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
  return dataOf<Understanding>(
    api.POST("/api/datasets/{dataset_id}/understanding", { params: { path: { dataset_id: id } }, body }),
  );
}

export async function keepWay(name: string, id: number, how: How, ledger: Ledger): Promise<void> {
  await dataOf(api.POST("/api/ways", { body: { name, dataset_id: id, how, ledger } }));
}
