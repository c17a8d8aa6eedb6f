import { Button } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, dataOf, type Params, type Schemas } from "../api/client";
import { useCatalogue } from "../bench/LedgerPane";
import { formatNumber } from "../ui/format";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";
import { underWay, WorkLine } from "./WorkLine";

type View = Schemas["TogetherView"];

const AGAIN = 1000; // milliseconds

interface Props {
  id: number;
  /** Changes whenever the run on all series does. */
  run: string;
  shown: boolean;
  onShow: (shown: boolean) => void;
  onDone: () => void;
}

/** Sums of the series by the parts of their names, or by columns. */
export function Together({ id, run, shown, onShow, onDone }: Props) {
  const { data: catalogue } = useCatalogue();
  const path = { study_id: id };
  const [trouble, setTrouble] = useState<unknown>();
  const query = useQuery({
    queryKey: ["all series together", id, run],
    queryFn: async () => {
      const view = await dataOf<View>(
        api.GET("/api/studies/{study_id}/all-series/together", { params: { path } }),
      );
      if (!underWay(view.work)) onDone();
      return view;
    },
    refetchInterval: ({ state }) => (underWay(state.data?.work) ? AGAIN : false),
  });
  const view = query.data;
  if (!view || !catalogue) return <TroubleNote error={query.error} />;
  const sum = (words: Params) => {
    setTrouble(undefined);
    dataOf(api.POST("/api/studies/{study_id}/all-series/together", { params: { path }, body: { words } }))
      .then(() => query.refetch())
      .catch(setTrouble);
  };
  const { work, sums } = view;
  const words = view.sentence.words as { by: string[] };
  return (
    <section aria-label="Together">
      <h2>Together</h2>
      <div className="came-words" data-entry="together">
        <Sentence
          parts={view.sentence.parts}
          params={view.sentence.words}
          words={catalogue.summing}
          options={{ "name parts": view.parts.map((part) => part.name) }}
          onPreview={() => undefined}
          onCommit={sum}
        />
        {view.parts.length > 0 && (
          <p className="muted small">
            {view.parts
              .filter((part) => words.by.length === 0 || words.by.includes(part.name))
              .map(
                (part) =>
                  `${part.name}: ${formatNumber(part.values)}, such as ${part.examples.slice(0, 2).join(", ")}`,
              )
              .join("; ")}
            .
          </p>
        )}
        {work && underWay(work) ? (
          <WorkLine work={work} label="How far the sums are" onStopped={() => void query.refetch()} />
        ) : (
          <>
            {work?.failure && <p className="attention small">{work.failure}</p>}
            {sums !== null && view.edited && (
              <p className="muted small">The study, or what was carried out, is another one since.</p>
            )}
            {(sums === null || view.edited) && (
              <Button size="small" onClick={() => sum(view.sentence.words)}>
                {sums === null ? "Sum them" : "Sum them again"}
              </Button>
            )}
          </>
        )}
      </div>
      <TroubleNote error={trouble} />
      {view.notes.map((note) => (
        <p key={note} className="muted small">
          {note}
        </p>
      ))}
      {sums !== null && (
        <div className="looks">
          <button
            type="button"
            aria-pressed={shown}
            className={shown ? "at" : undefined}
            onClick={() => onShow(!shown)}
          >
            {sums === 1 ? "sum" : "sums"}, each as a series
            <b>{formatNumber(sums)}</b>
          </button>
        </div>
      )}
    </section>
  );
}
