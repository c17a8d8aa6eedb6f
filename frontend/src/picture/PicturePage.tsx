import "../bench/bench.css";
import "./picture.css";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Bench, Params } from "../api/client";
import { useKey } from "../app/keys";
import { useCatalogue } from "../bench/LedgerPane";
import { onWords } from "../bench/edits";
import { useBench, type BenchHandle } from "../bench/useBench";
import { StudyTop } from "../bench/StudyTop";
import { Waiting } from "../bench/Waiting";
import { formatNumber } from "../ui/format";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";
import { warnings } from "./draw/colour";
import { moved, onPicture, withWords, type LineDress, type Picture } from "./edits";
import { HouseStyles } from "./HouseStyles";
import { DressCard, Swatch } from "./DressCard";
import { PictureHandOver } from "./PictureHandOver";
import { PictureTabs } from "./PictureTabs";
import { Sheet, type Spot } from "./Sheet";
import { usePicture, type PictureView } from "./usePicture";

const GROUPS: [string, string[]][] = [
  ["The page", ["headings", "what", "page"]],
  ["Lines", ["line"]],
  ["Scales and time", ["left", "right", "time"]],
  ["Notes on the picture", ["notes", "note"]],
  ["Its reader", ["language"]],
];

/** Dressing a study's pictures, a sentence for each thing, and handing them over. */
export function PicturePage() {
  const { studyId } = useParams();
  return <PictureOf key={studyId} id={Number(studyId)} />;
}

function PictureOf({ id }: { id: number }) {
  const handle = useBench(id);
  const { kept } = handle;
  const navigate = useNavigate();
  const [place, setPlace] = useState(0);
  const waiting = kept?.entries.filter((entry) => entry.waiting).length ?? 0;
  const picture = usePicture(id, kept?.study.revision, place, waiting);
  useKey("g>b", () => void navigate(`/studies/${id}`));
  useKey("g>p", () => void navigate(`/studies/${id}/projection`));
  if (!kept) return <Waiting error={handle.error} />;
  const count = Math.max(1, kept.settings.pictures?.length ?? 0);
  // a picture that was undone is no longer there
  if (place >= count) setPlace(count - 1);
  return (
    <div className="page full picture-page">
      <StudyTop id={id} at="picture" handle={handle} kept={kept} />
      <TroubleNote error={handle.trouble ?? picture.trouble ?? picture.error} onClose={handle.dropTrouble} />
      {picture.view && picture.kept && (
        <Room
          handle={handle}
          bench={kept}
          kept={picture.kept}
          view={picture.view}
          onPreview={picture.preview}
          onPlace={setPlace}
        />
      )}
    </div>
  );
}

interface RoomProps {
  handle: BenchHandle;
  bench: Bench;
  kept: PictureView;
  view: PictureView;
  onPreview: (picture: Picture | undefined) => void;
  onPlace: (place: number) => void;
}

function Room({ handle, bench, kept, view, onPreview, onPlace }: RoomProps) {
  const { data: catalogue } = useCatalogue();
  const [chosen, setChosen] = useState<Spot>();
  const { place } = kept;
  const figure = view.figure;
  const every = view.sentences
    .filter((sentence) => sentence.part === "line")
    .map((sentence) => sentence.params as unknown as LineDress);
  const commit = (change: (picture: Picture) => Picture, what: string) =>
    void handle.commit(onPicture(place, kept.picture, change), `Picture: ${what}`);
  const options = {
    ...catalogue?.options,
    ...bench.options,
    picture_lines: view.lines,
  };
  const said = warnings(figure);
  const standing = new Map(
    figure.shapes.flatMap((shape) => {
      const entry = bench.entries.find((found) => found.id === shape.entry);
      const at = entry?.params.at as { kind?: string } | undefined;
      return entry && shape.shape === "rule" && at?.kind === "value" ? [[shape.id, entry] as const] : [];
    }),
  );
  const addNote = () => {
    const line = figure.series[0];
    const n = line ? line.v.findLastIndex((value) => value !== null) : -1;
    const note = { text: "a note", at: line?.t[n] ?? 0, value: line?.v[n] ?? 0, dx: -60, dy: -60 };
    commit((dressed) => ({ ...dressed, free: [...dressed.free, note] }), "note added");
    setChosen({ part: "note", key: String(kept.picture.free.length) });
  };
  return (
    <main className="picture-body">
      <aside className="picture-left" aria-label="Sentences of the picture">
        <PictureTabs
          names={kept.names}
          place={place}
          picture={kept.picture}
          series={bench.options.lines}
          onPlace={onPlace}
          onCommit={(change, what) => void handle.commit(change, what)}
        />
        <HouseStyles
          study={bench.study.id}
          place={place}
          onUse={(picture, name) => commit(() => picture, `in the style “${name}”`)}
        />
        {GROUPS.map(([title, parts]) => (
          <section key={title}>
            <h2>{title}</h2>
            {view.sentences
              .filter((sentence) => parts.includes(sentence.part))
              .map((sentence) => {
                const at =
                  sentence.part === "line" ? every.findIndex((line) => line.id === sentence.key) : -1;
                const change = (params: Params) => (picture: Picture) =>
                  withWords(picture, sentence.part, sentence.key, params, every);
                return (
                  <DressCard
                    key={`${sentence.part} ${sentence.key}`}
                    chosen={chosen?.part === sentence.part && chosen.key === sentence.key}
                    label={sentence.name || sentence.part}
                    onChoose={() => setChosen({ part: sentence.part, key: sentence.key })}
                    {...(at >= 0
                      ? {
                          onMove: (by: number) =>
                            commit((picture) => moved(picture, every, at, at + by), "order of lines"),
                        }
                      : {})}
                  >
                    <div className="dress-line" data-entry={sentence.key || sentence.part}>
                      {sentence.part === "line" && <Swatch figure={figure} line={sentence.key} />}
                      <Sentence
                        parts={sentence.parts}
                        params={sentence.params as Params}
                        words={catalogue?.dress[sentence.part] ?? []}
                        options={options}
                        onPreview={(params) => onPreview(params && change(params)(kept.picture))}
                        onCommit={(params, what) => commit(change(params), what)}
                      />
                    </div>
                    {sentence.part === "note" && (
                      <button
                        type="button"
                        className="link"
                        onClick={() =>
                          commit(
                            (picture) => ({
                              ...picture,
                              free: picture.free.toSpliced(Number(sentence.key), 1),
                            }),
                            "note taken off",
                          )
                        }
                      >
                        take it off
                      </button>
                    )}
                  </DressCard>
                );
              })}
            {title === "Notes on the picture" && (
              <button type="button" className="link" onClick={addNote}>
                Add a note
              </button>
            )}
          </section>
        ))}
        <section>
          <h2>In words</h2>
          <AltText
            view={kept}
            onCommit={(alt) => commit((picture) => ({ ...picture, alt }), "description")}
          />
        </section>
      </aside>
      <section className="picture-right">
        <Sheet
          figure={figure}
          picture={kept.picture}
          alt={view.alt}
          chosen={chosen}
          onChoose={setChosen}
          onPreview={onPreview}
          onCommit={(picture, what) => commit(() => picture, what)}
          standing={new Set(standing.keys())}
          onStand={(key, value) => {
            const entry = standing.get(key);
            if (!entry) return;
            const words = { at: { kind: "value", value } };
            void handle.commit(
              onWords(entry.id, words, entry.params),
              `Line moved to ${formatNumber(value)}`,
            );
          }}
        />
        {said.length > 0 && (
          <ul className="picture-warnings" role="status">
            {said.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        )}
        <p className="muted small">
          What you click on the picture is the sentence that lights up at the left; drag the end of the scale,
          a line held against, a name or a note to where you want it.
        </p>
        <PictureHandOver study={bench.study.id} place={place} />
      </section>
    </main>
  );
}

/** The picture for those who cannot see it; made from the figure until it is written by hand. */
function AltText({ view, onCommit }: { view: PictureView; onCommit: (alt: string | null) => void }) {
  const [text, setText] = useState<string>();
  return (
    <div className="dress-card">
      <textarea
        aria-label="Written description of the picture"
        rows={5}
        value={text ?? view.alt}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => {
          if (text !== undefined && text !== view.alt) onCommit(text.trim() || null);
          setText(undefined);
        }}
      />
      {view.own && (
        <button type="button" className="link" onClick={() => onCommit(null)}>
          as Zembra tells it
        </button>
      )}
    </div>
  );
}
