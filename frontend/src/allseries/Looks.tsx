import { Button, InputNumber } from "antd";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, dataOf, type Schemas } from "../api/client";
import { formatDate, formatNumber, plural } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";
import { underWay, WorkLine } from "./WorkLine";
import type { Asked, Near } from "./asked";

interface Props {
  id: number;
  view: Schemas["AllSeriesView"];
  asOf: string;
  near: Near;
  onNear: (near: Near) => void;
  of: Asked["of"];
  look: string;
  onLook: (look: string) => void;
  onBegun: () => void;
}

/** Carrying the ledger out on all series, and what needs a look, as counts that open their rows. */
export function Looks({ id, view, asOf, near, onNear, of, look, onLook, onBegun }: Props) {
  const path = { study_id: id };
  const [trouble, setTrouble] = useState<unknown>();
  const looks = useQuery({
    queryKey: ["all series looks", id, near, of],
    enabled: view.known > 0,
    // the words stay while they are counted anew
    placeholderData: keepPreviousData,
    queryFn: () =>
      dataOf<Schemas["Looks"]>(
        api.GET("/api/studies/{study_id}/all-series/looks", { params: { path, query: { ...near, of } } }),
      ),
  });
  const { work } = view;
  const working = underWay(work);
  const begin = () => {
    setTrouble(undefined);
    dataOf(api.POST("/api/studies/{study_id}/all-series", { params: { path } }))
      .then(onBegun)
      .catch(setTrouble);
  };
  return (
    <>
      <h2>The ledger on all of them</h2>
      <div className="came-words">
        <p>
          Carry the ledger out on all <b>{plural(view.series, "series", "series")}</b> of the file, as of{" "}
          <b>{formatDate(asOf)}</b>.
        </p>
        {work && working ? (
          <WorkLine
            work={work}
            label="How far it is"
            more=" What is done can be looked at."
            onStopped={onBegun}
          />
        ) : (
          <p className="muted small">
            {view.revision === null
              ? work?.stage === "stopped"
                ? "Stopped; it goes on with what is left."
                : "Not carried out yet."
              : view.edited
                ? `Carried out at revision ${view.revision}: the study is another one since.`
                : `Carried out on ${plural(view.known, "series", "series")}, as it stands now.`}
          </p>
        )}
        {work?.failure && <p className="attention small">{work.failure}</p>}
        {!working && (
          <Button
            size="small"
            type={view.revision === null || view.edited ? "primary" : "default"}
            onClick={begin}
          >
            {view.revision === null ? "Carry it out" : "Carry it out again"}
          </Button>
        )}
      </div>
      <TroubleNote error={trouble} />
      {view.notes.map((note) => (
        <p key={note} className="muted small">
          {note}
        </p>
      ))}
      {view.known > 0 && (
        <>
          <h2>What needs a look</h2>
          <TroubleNote error={looks.error} />
          <div className="looks" role="group" aria-label="What needs a look">
            {looks.data?.looks.map(({ name, words, count, calls }) => (
              <button
                key={name}
                type="button"
                aria-pressed={look === name}
                className={look === name ? "at" : undefined}
                onClick={() => onLook(look === name ? "" : name)}
              >
                {words}
                <b className={calls && count ? "attention" : undefined}>{formatNumber(count)}</b>
              </button>
            ))}
          </div>
          <p className="near muted small">
            Lately is the last{" "}
            <InputNumber
              size="small"
              min={0}
              max={36500}
              value={near.lately}
              aria-label="Days that are lately"
              onChange={(lately) => lately !== null && onNear({ ...near, lately })}
            />{" "}
            days, near the end the newest{" "}
            <InputNumber
              size="small"
              min={1}
              max={64}
              value={near.end}
              aria-label="Periods that are near the end"
              onChange={(end) => end !== null && onNear({ ...near, end })}
            />{" "}
            periods.
          </p>
        </>
      )}
    </>
  );
}
