import type { Bench, FigureSettings, Params } from "../api/client";
import { Sentence } from "../ui/Sentence";
import { plural } from "../ui/format";
import { useCatalogue } from "./LedgerPane";
import type { BenchHandle } from "./useBench";

interface Props {
  handle: BenchHandle;
  bench: Bench;
  onLeaveOut: (drawn: string[]) => void;
}

/** What is drawn and how, as a sentence; and what is in the study without being drawn. */
export function FigureBar({ handle, bench, onLeaveOut }: Props) {
  const { data: catalogue } = useCatalogue();
  const drawn = bench.figure.lines.filter((line) => line.role === "series").map((line) => line.series);
  const others = bench.options.lines.length - drawn.length;
  const edit = (params: Params) => ({ ledger: bench.ledger, settings: params as FigureSettings });
  return (
    <div className="figure-bar" data-entry="figure">
      <Sentence
        parts={bench.figure_parts}
        params={bench.settings as Params}
        words={catalogue?.figure ?? []}
        options={bench.options}
        onPreview={(params) => handle.preview(params && edit(params))}
        onCommit={(params, what) => void handle.commit(edit(params), `Figure: ${what}`)}
      />
      {others > 0 && (
        <span className="muted">
          {plural(others, "more series counts", "more series count")} without being drawn.{" "}
          <button type="button" className="link" onClick={() => onLeaveOut(drawn)}>
            Leave {others > 1 ? "them" : "it"} out of the study
          </button>
        </span>
      )}
    </div>
  );
}
