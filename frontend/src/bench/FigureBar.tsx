import type { Bench, FigureSettings, Params } from "../api/client";
import { Sentence } from "../ui/Sentence";
import { plural } from "../ui/format";
import { useCatalogue } from "./LedgerPane";
import { changedWords, onSettings } from "./edits";
import type { BenchHandle } from "./useBench";

const MOST_DRAWN = 12;

interface Props {
  handle: BenchHandle;
  bench: Bench;
  onLeaveOut: (drawn: string[]) => void;
}

function seriesOf(bench: Bench): string[] {
  return bench.figure.series.map((series) => series.name);
}

/** What is drawn and how, as a sentence; and what is in the study without being drawn. */
export function FigureBar({ handle, bench, onLeaveOut }: Props) {
  const { data: catalogue } = useCatalogue();
  const drawn = seriesOf(bench);
  const others = bench.options.lines.filter((name) => !drawn.includes(name));
  // a derived series is no series of the file: it goes with its entry
  const ofFile = (names: string[]) => names.filter((name) => bench.options.series.includes(name));
  const canLeaveOut = ofFile(others).length > 0 && ofFile(drawn).length > 0;
  const them = others.length > 1 ? "them" : "it";
  const edit = (params: Params) => ({ ledger: bench.ledger, settings: params as FigureSettings });
  const kept = handle.kept ?? bench;
  // choosing what is drawn starts from what is drawn, whatever is being previewed
  const given: Params = {
    ...kept.settings,
    shown: kept.settings.shown?.length ? kept.settings.shown : seriesOf(kept),
  };
  return (
    <div className="figure-bar" data-entry="figure">
      <Sentence
        parts={bench.figure_parts}
        params={given}
        words={catalogue?.figure ?? []}
        options={bench.options}
        onPreview={(params) => handle.preview(params && edit(params))}
        onCommit={(params, what) =>
          void handle.commit(
            onSettings(changedWords(given, params) as Partial<FigureSettings>),
            `Figure: ${what}`,
          )
        }
      />
      {others.length > 0 && (
        <span className="muted">
          {plural(others.length, "more series counts", "more series count")} without being drawn.{" "}
          {others.length + drawn.length <= MOST_DRAWN && (
            <button
              type="button"
              className="link"
              onClick={() =>
                void handle.commit(onSettings({ shown: [...drawn, ...others] }), "All series drawn")
              }
            >
              Draw {them}
            </button>
          )}
          {others.length + drawn.length <= MOST_DRAWN && canLeaveOut && " · "}
          {canLeaveOut && (
            <button type="button" className="link" onClick={() => onLeaveOut(ofFile(drawn))}>
              Leave {ofFile(others).length > 1 ? "them" : "it"} out of the study
            </button>
          )}
        </span>
      )}
    </div>
  );
}
