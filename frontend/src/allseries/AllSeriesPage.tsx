import "../projection/projection.css";
import "../newrows/newrows.css";
import "./allseries.css";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { api, dataOf, type Schemas } from "../api/client";
import { TopBar } from "../app/TopBar";
import { useBench } from "../bench/useBench";
import { ViewSwitch } from "../bench/ViewSwitch";
import { Waiting } from "../bench/Waiting";
import { TroubleNote } from "../ui/Trouble";
import { Chosen } from "./Chosen";
import { Looks } from "./Looks";
import { SeriesTable } from "./SeriesTable";
import { Together } from "./Together";
import { underWay } from "./WorkLine";
import type { Asked, Near } from "./asked";

type View = Schemas["AllSeriesView"];

const AGAIN = 1000; // milliseconds

/** Every series of a study: the ledger carried out on all of them, and the few that need a look. */
export function AllSeriesPage() {
  const id = Number(useParams().studyId);
  const client = useQueryClient();
  const handle = useBench(id);
  const [near, setNear] = useState<Near>({ lately: 28, end: 14 });
  const [asked, setAsked] = useState<Asked>({
    of: "series",
    look: "",
    find: "",
    by: "away",
    descending: true,
    where: [],
  });
  const [series, setSeries] = useState<string>();
  const path = { study_id: id };
  const query = useQuery({
    queryKey: ["all series", id, handle.kept?.study.revision],
    enabled: handle.kept !== undefined,
    queryFn: () => dataOf<View>(api.GET("/api/studies/{study_id}/all-series", { params: { path } })),
    refetchOnMount: "always",
    refetchInterval: ({ state }) => (underWay(state.data?.work) ? AGAIN : false),
  });
  const view = query.data;
  // what is done already can be looked at, and again when all of it is
  const done = `${view?.known ?? 0} ${view?.work?.stage ?? ""}`;
  const again = useCallback(() => {
    void client.invalidateQueries({ queryKey: ["all series rows", id] });
    void client.invalidateQueries({ queryKey: ["all series looks", id] });
    void client.invalidateQueries({ queryKey: ["all series one", id] });
  }, [client, id]);
  useEffect(again, [again, done]);
  const study = handle.kept?.study;
  if (!study) return <Waiting error={handle.error} />;
  return (
    <div className="page full new-rows-page">
      <TopBar actions={<ViewSwitch id={id} at="all-series" />}>
        <Link to="/">Studies</Link> <span className="muted">/</span>{" "}
        <Link to={`/studies/${id}`} className="study-name">
          {study.name}
        </Link>{" "}
        <span className="muted">/ all series</span>
      </TopBar>
      <main className="all-series">
        <aside aria-label="The ledger on all of them">
          <TroubleNote error={query.error} />
          {view && (
            <Looks
              id={id}
              view={view}
              asOf={study.as_of}
              near={near}
              onNear={setNear}
              of={asked.of}
              look={asked.look}
              onLook={(look) => setAsked({ ...asked, look })}
              onBegun={() => void query.refetch()}
            />
          )}
          {view?.revision != null && (
            <Together
              id={id}
              run={`${study.revision} ${done}`}
              shown={asked.of === "sums"}
              onShow={(shown) => {
                setSeries(undefined);
                setAsked({ ...asked, of: shown ? "sums" : "series", look: "", where: [] });
              }}
              onDone={again}
            />
          )}
        </aside>
        <section>
          {view && view.known > 0 ? (
            <>
              <SeriesTable
                id={id}
                asked={asked}
                near={near}
                known={view.known}
                columns={view.columns}
                chosen={series}
                onAsked={setAsked}
                onChoose={setSeries}
              />
              {series && <Chosen id={id} of={asked.of} series={series} handle={handle} />}
            </>
          ) : (
            <p className="muted">
              The ledger of the bench is carried out on every series of <b>{study.file}</b>, whichever the
              bench draws. What needs a look is counted then, and each series can be opened.
            </p>
          )}
        </section>
      </main>
    </div>
  );
}
