import "../projection/projection.css";
import "./newrows.css";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useLocation, useNavigate, useParams, useSearchParams } from "react-router";
import { api, dataOf, type Params, type Schemas } from "../api/client";
import { post, waited } from "../api/waiting";
import { TopBar } from "../app/TopBar";
import { useCatalogue } from "../bench/LedgerPane";
import { useBench } from "../bench/useBench";
import { Waiting } from "../bench/Waiting";
import { AsOf } from "../ui/AsOf";
import { TroubleNote } from "../ui/Trouble";
import { Came } from "./Came";
import { Choose } from "./Choose";
import { FeedPane } from "./FeedPane";
import { Happened } from "./Happened";
import { Known } from "./Known";
import { WatchPane } from "./WatchPane";

type View = Schemas["NewRowsView"];
type HowRead = Schemas["HowRead"];

/** New rows of a study: what came, what it changes, and taking it in. */
export function NewRowsPage() {
  const { studyId } = useParams();
  const id = Number(studyId);
  const [search, setSearch] = useSearchParams();
  const file = Number(search.get("file")) || undefined;
  const client = useQueryClient();
  const { data: catalogue } = useCatalogue();
  const handle = useBench(id);
  const [how, setHow] = useState<Params>();
  const [asOf, setAsOf] = useState<string>();
  const revision = handle.kept?.study.revision;
  // how Intake has it read, where that is not as the last one was
  const readByIntake = (useLocation().state as { read?: HowRead } | null)?.read;
  const [answered, setAnswered] = useState<HowRead>();
  const read = answered ?? readByIntake;
  const look = useQuery({
    queryKey: ["new rows", id, revision, file, how, asOf, read],
    enabled: file !== undefined && revision !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: async () =>
      (await waited(
        () =>
          post(`/api/studies/${id}/new-rows/preview`, {
            dataset_id: file,
            how: how ?? null,
            as_of: asOf ?? null,
            read: read ?? null,
          }),
        (answer) => answer.json() as Promise<View>,
      )) ?? null,
  });
  const choose = (dataset: number) => {
    setHow(undefined);
    setAsOf(undefined);
    setAnswered(undefined);
    setSearch({ file: String(dataset) }, { replace: file !== undefined });
  };
  const navigate = useNavigate();
  const unlike = useQuery({
    queryKey: ["difference", id, file],
    enabled: file !== undefined && look.error !== null && !read,
    retry: false,
    queryFn: () =>
      dataOf<Schemas["DifferenceView"]>(
        api.GET("/api/studies/{study_id}/new-rows/difference", {
          params: { path: { study_id: id }, query: { dataset_id: file ?? 0 } },
        }),
      ),
  });
  const otherwise = look.error !== null && (unlike.data?.differs.length ?? 0) > 0;
  useEffect(() => {
    if (otherwise) void navigate(`/intake/${file}?for=${id}`, { replace: true });
  }, [otherwise, navigate, file, id]);
  const study = handle.kept?.study;
  if (!study) return <Waiting error={handle.error} />;
  const view = file === undefined || look.error ? undefined : (look.data ?? undefined);
  return (
    <div className="page full new-rows-page">
      <TopBar
        actions={
          view && <AsOf day={view.as_of} onPreview={() => undefined} onCommit={(day) => setAsOf(day)} />
        }
      >
        <Link to="/">Studies</Link> <span className="muted">/</span>{" "}
        <Link to={`/studies/${id}`} className="study-name">
          {study.name}
        </Link>{" "}
        <span className="muted">/ new rows</span>
      </TopBar>
      <main className="new-rows">
        <aside aria-label="What came">
          <TroubleNote error={handle.trouble} onClose={handle.dropTrouble} />
          <h2>What came</h2>
          <Choose
            standing={study.dataset_id}
            file={file}
            onFile={(dataset) => {
              void client.invalidateQueries({ queryKey: ["files"] });
              choose(dataset);
            }}
          />
          <TroubleNote error={look.error} />
          {look.error && file !== undefined && (
            <p>
              <Link to={`/intake/${file}`}>Bring it in as a study of its own</Link>; this one stays as it is.
            </p>
          )}
          {look.isFetching && !view && <p className="muted">Reading it as the last one was…</p>}
          {view && (
            <Came
              view={view}
              handle={handle}
              words={catalogue?.taking ?? []}
              onWords={setHow}
              onAnswer={(answer) => {
                setAnswered(answer.read);
                setHow(answer.how);
              }}
              id={id}
              revision={study.revision}
              file={file ?? 0}
              asOf={asOf}
              how={how}
              read={read}
            />
          )}
          {!view && !look.error && file === undefined && (
            <p className="muted">
              The study stands on <b>{study.file}</b>. Bring in next month’s file, the whole table again or
              only what is new: it is read as the last one was and shown here. Nothing is taken before you say
              so, and Undo takes it out again.
            </p>
          )}
          <Known id={id} revision={study.revision} />
          <p>
            <Link to={`/studies/${id}/said`}>What we said each time</Link>
          </p>
        </aside>
        {view ? (
          <section>
            <Happened view={view} />
          </section>
        ) : (
          <section className="by-itself">
            <FeedPane id={id} onFile={choose} />
            <WatchPane id={id} series={handle.kept?.options.series ?? []} />
          </section>
        )}
      </main>
    </div>
  );
}
