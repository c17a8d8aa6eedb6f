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

/** What is pasted from a spreadsheet, a page or a text, as a file; nothing where there is nothing. */
export function pastedFile(clipboard: DataTransfer | null): File | undefined {
  const file = clipboard?.files[0];
  if (file) return file;
  const page = clipboard?.getData("text/html") ?? "";
  // as text a cell over several rows or columns looks like one with blanks beside it
  if (/<table\b/i.test(page) && /\b(row|col)span\s*=\s*["']?[2-9]/i.test(page))
    return new File([page], "pasted table.html", { type: "text/html" });
  const text = clipboard?.getData("text/plain") ?? "";
  return text.trim() ? new File([text], "pasted table.txt", { type: "text/plain" }) : undefined;
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
