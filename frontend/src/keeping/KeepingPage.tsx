import "./keeping.css";
import { App as AntApp, Button, Progress } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";
import { api, dataOf, type Schemas } from "../api/client";
import { TopBar } from "../app/TopBar";
import { Waiting } from "../bench/Waiting";
import { fileSize, formatDate, formatMoment, plural } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";
import { Sessions, SignOut } from "./Sessions";
import { exportEverything, startCheck, takeBackup } from "./working";

type Keeping = Schemas["KeepingView"];
type File = Schemas["DatasetView"];

const WHY: Record<string, string> = {
  daily: "the daily one",
  "before-migration": "before the database was changed",
  "before-restore": "what was there before another was put back",
  "by-hand": "made by hand",
};

/** Where everything is, whether it is whole, and what may be let go. */
export function KeepingPage() {
  const client = useQueryClient();
  const [trouble, setTrouble] = useState<unknown>();
  const [work, setWork] = useState<Schemas["WorkView"]>();
  const [checked, setChecked] = useState<Schemas["CheckView"]>();
  const [leftOut, setLeftOut] = useState<string[]>([]);
  const query = useQuery({
    queryKey: ["keeping"],
    staleTime: 0,
    queryFn: () => dataOf<Keeping>(api.GET("/api/keeping")),
  });
  if (!query.data) return <Waiting error={query.error} />;
  const kept = query.data;
  const doing = (call: Promise<unknown>) => {
    setTrouble(undefined);
    void call
      .then(() => client.invalidateQueries({ queryKey: ["keeping"] }))
      .catch(setTrouble)
      .finally(() => setWork(undefined));
  };
  const newest = kept.backups[0];
  return (
    <div className="page">
      <TopBar>
        <Link to="/">Studies</Link> <span className="muted">/</span> <h1 className="study-name">Keeping</h1>
      </TopBar>
      <main className="keeping">
        <TroubleNote error={trouble} onClose={() => setTrouble(undefined)} />
        {work && (
          <div className="keeping-work" role="status">
            <span>{work.doing}</span>
            <Progress percent={Math.round(100 * work.share)} size="small" showInfo={false} />
          </div>
        )}
        {kept.trouble && (
          <p className="trouble" role="alert">
            The daily backup and the rest of what keeps this home in order could not be done: {kept.trouble}{" "}
            It is tried again every ten minutes.
          </p>
        )}
        <Part title="Where it is">
          <p>
            <code>{kept.folder}</code>
          </p>
          <p className="muted">
            {fileSize(kept.space.database)} in {kept.database}
            {kept.space.log > 0 && `, ${fileSize(kept.space.log)} in the log beside it`}. When Zembra is
            stopped all of it is in that one file, and copying it is enough.
          </p>
          {kept.space.free > LITTLE && (
            <p>
              {fileSize(kept.space.free)} are held by nothing any more.{" "}
              <button
                type="button"
                className="link"
                onClick={() => doing(dataOf(api.POST("/api/keeping/space")))}
              >
                Give them back to the disk
              </button>
            </p>
          )}
        </Part>
        <Part
          title="Whether it is whole"
          action={
            <Button
              disabled={Boolean(work)}
              onClick={() => doing(startCheck(setWork).then((found) => setChecked(found)))}
            >
              Check now
            </Button>
          }
        >
          {checked ? (
            <CheckResult found={checked} />
          ) : (
            <p className="muted">
              Every page of the database, the checksum of every received file, and the seal of every revision,
              note, snapshot, house style and way of reading are looked at.
            </p>
          )}
        </Part>
        <Part
          title="Backups"
          action={
            <Button disabled={Boolean(work)} onClick={() => doing(takeBackup(setWork))}>
              Back up now
            </Button>
          }
        >
          <p className="muted">
            {newest ? `The last one is of ${formatMoment(newest.made_at)}. ` : "There is none yet. "}
            One is made every day while Zembra runs, and before it changes the database; the last seven of
            each kind stay. To put one back, stop Zembra and run <code>zembra restore FILE</code>.
          </p>
          {kept.backups.length > 0 && (
            <table className="keeping-backups">
              <thead>
                <tr>
                  <th>made</th>
                  <th>why</th>
                  <th className="number">size</th>
                  <th>file</th>
                </tr>
              </thead>
              <tbody>
                {kept.backups.map((backup) => (
                  <tr key={backup.name}>
                    <td>{formatMoment(backup.made_at)}</td>
                    <td>{WHY[backup.why] ?? backup.why}</td>
                    <td className="number">{fileSize(backup.size)}</td>
                    <td>
                      <a href={`/api/keeping/backups/${backup.name}`} download>
                        backups/{backup.name}
                      </a>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Part>
        <Part
          title="Taking it elsewhere"
          action={
            <Button
              disabled={Boolean(work)}
              onClick={() => doing(exportEverything(setWork).then((found) => setLeftOut(found)))}
            >
              Export everything
            </Button>
          }
        >
          <p className="muted">
            All files, studies with their revisions, notes and snapshots, house styles and ways of reading, in
            one zip of open forms. <code>zembra import FILE</code> adds it to another home.
          </p>
          {leftOut.length > 0 && (
            <div role="status" className="damaged">
              <h3>Left out of it, as it is not whole</h3>
              <ul>
                {leftOut.map((reason) => (
                  <li key={reason}>{reason}</li>
                ))}
              </ul>
            </div>
          )}
        </Part>
        {kept.sessions.length > 0 && (
          <Part title="Who is in" action={<SignOut />}>
            <p className="muted">Browsers that came in with the key within thirty days.</p>
            <Sessions sessions={kept.sessions} doing={doing} />
          </Part>
        )}
        <Files kept={kept} doing={doing} />
      </main>
    </div>
  );
}

/** Less than so many bytes are not worth giving back. */
const LITTLE = 1_000_000;

function Part({ title, action, children }: { title: string; action?: ReactNode; children: ReactNode }) {
  return (
    <section className="keeping-part" aria-label={title}>
      <header>
        <h2>{title}</h2>
        {action}
      </header>
      {children}
    </section>
  );
}

function CheckResult({ found }: { found: Schemas["CheckView"] }) {
  const looked = `${plural(found.files, "file")}, ${plural(found.studies, "study", "studies")} and ${plural(found.revisions, "revision")}`;
  if (!found.findings.length)
    return (
      <p role="status" className="keeping-whole">
        Everything is whole: {looked} looked at, {formatMoment(found.at)}.
      </p>
    );
  return (
    <div role="status" className="damaged">
      <p>
        {looked} looked at, {formatMoment(found.at)}. Not whole:
      </p>
      <ul>
        {found.findings.map((finding) => (
          <li key={`${finding.place} ${finding.what}`}>
            <b>{finding.place}</b>: {finding.what}. <span className="muted">{finding.todo}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}

function Files({ kept, doing }: { kept: Keeping; doing: (call: Promise<unknown>) => void }) {
  const { modal } = AntApp.useApp();
  const of = (file: File) => ({ params: { path: { dataset_id: file.id } } });
  const erase = (file: File) =>
    void modal.confirm({
      title: `Remove “${file.name}” for good?`,
      content: "Its bytes go, and only a backup holds them then.",
      okText: "Remove for good",
      cancelText: "Keep it",
      onOk: () => doing(dataOf(api.DELETE("/api/keeping/files/{dataset_id}/removed", of(file)))),
    });
  return (
    <Part title="Files that no study stands on">
      {kept.unused.length + kept.removed.length === 0 && (
        <p className="muted">None: every file that was received is used by a study.</p>
      )}
      <ul className="keeping-files">
        {kept.unused.map((file) => (
          <li key={file.id}>
            <Link to={`/intake/${file.id}`}>{file.name}</Link>
            <span className="muted">
              {fileSize(file.size)}, received {formatDate(file.received_at)}
            </span>
            <button
              type="button"
              className="link danger"
              onClick={() => doing(dataOf(api.DELETE("/api/keeping/files/{dataset_id}", of(file))))}
            >
              remove
            </button>
          </li>
        ))}
        {kept.removed.map((file) => (
          <li key={file.id}>
            <s>{file.name}</s>
            <span className="muted">{fileSize(file.size)}, removed</span>
            <button
              type="button"
              className="link"
              onClick={() => doing(dataOf(api.POST("/api/keeping/files/{dataset_id}/restore", of(file))))}
            >
              bring back
            </button>
            <button type="button" className="link danger" onClick={() => erase(file)}>
              remove for good
            </button>
          </li>
        ))}
      </ul>
      <p className="muted">
        What is removed, files, studies and snapshots, can be brought back for {kept.stay} days; then it goes
        for good.
      </p>
    </Part>
  );
}
