/** Work on everything that is kept: followed until it is done. */
import { api, told, type Schemas } from "../api/client";
import { ended } from "../ui/files";
import { Trouble } from "../api/client";

type Work = Schemas["WorkView"];
type OnWork = (work: Work) => void;

export async function startCheck(onWork: OnWork): Promise<Schemas["CheckView"]> {
  return result(await told<Schemas["CheckView"] | Work>(api.POST("/api/keeping/check")), onWork);
}

export async function takeBackup(onWork: OnWork): Promise<void> {
  await result(await told<Schemas["BackupView"] | Work>(api.POST("/api/keeping/backups")), onWork);
}

/** Everything in one zip, saved as a file; what of it is not whole and was left out. */
export async function exportEverything(onWork: OnWork): Promise<string[]> {
  const work = await told<Work>(api.POST("/api/keeping/export"));
  if (await ended(work, onWork)) return [];
  const done = await told<Work>(api.GET("/api/work/{key}", { params: { path: { key: work.key } } }));
  if (done.failure) throw new Trouble(done.failure, 0);
  const link = document.createElement("a");
  link.href = `/api/keeping/export/${work.key}`;
  link.download = "";
  link.click();
  return done.notices;
}

async function result<T extends object>(answer: T | Work, onWork: OnWork): Promise<T> {
  if (!("stage" in answer)) return answer;
  await ended(answer, onWork);
  return told<T>(api.GET("/api/keeping/work/{key}", { params: { path: { key: answer.key } } }) as never);
}
