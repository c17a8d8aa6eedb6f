/** Work on everything that is kept: followed until it is done. */
import { api, dataOf, Trouble, type Schemas } from "../api/client";
import { begun, ended, post, type OnWork, type Work } from "../api/waiting";

export async function startCheck(onWork: OnWork): Promise<Schemas["CheckView"] | undefined> {
  return begun<Schemas["CheckView"]>(() => post("/api/keeping/check"), onWork);
}

export async function takeBackup(onWork: OnWork): Promise<void> {
  await begun<Schemas["BackupView"]>(() => post("/api/keeping/backups"), onWork);
}

/** Everything in one zip, saved as a file; what of it is not whole and was left out. */
export async function exportEverything(onWork: OnWork): Promise<string[]> {
  const done = await ended(await dataOf<Work>(api.POST("/api/keeping/export")), onWork);
  if (done.stage === "stopped") return [];
  if (done.failure) throw new Trouble(done.failure, 0);
  const link = document.createElement("a");
  link.href = `/api/work/${done.key}/answer`;
  link.download = "";
  link.click();
  return done.notices;
}
