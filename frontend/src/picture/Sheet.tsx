import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Figure } from "../figure/types";
import { formatNumber } from "../ui/format";
import { sheetSvg } from "./draw/picture";
import { sheetOf, type Sheet as Drawn } from "./draw/sheet";
import type { Picture } from "./edits";

/** A sentence by its part, and the line or note it speaks of. */
export interface Spot {
  part: string;
  key: string;
}

interface Props {
  figure: Figure;
  picture: Picture;
  alt: string;
  chosen: Spot | undefined;
  onChoose: (spot: Spot) => void;
  onPreview: (picture: Picture | undefined) => void;
  onCommit: (picture: Picture, what: string) => void;
  /** Lines that stand at a number of their own sentence, by their key. */
  standing: ReadonlySet<string>;
  onStand: (key: string, value: number) => void;
}

interface Drag {
  value?: number;
  spot: Spot;
  end?: "low" | "high" | undefined;
  x: number;
  y: number;
  moved: boolean;
  picture: Picture;
}

const NEAR = 26; // of an end of an axis, in units of the sheet
const STARTED = 3; // pixels from which a press is a drag

/** The picture itself. What is clicked lights up its sentence; ends of axes, names and notes are dragged. */
export function Sheet({
  figure,
  picture,
  alt,
  chosen,
  onChoose,
  onPreview,
  onCommit,
  standing,
  onStand,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<Drag>();
  const sheet = useMemo(() => sheetOf(figure), [figure]);
  const svg = useMemo(() => sheetSvg(sheet), [sheet]);
  const page = figure.page;
  if (!page) return null;
  const at = (event: PointerEvent) => {
    const rect = box.current?.getBoundingClientRect();
    if (!rect) return { x: 0, y: 0 };
    const by = sheet.width / rect.width;
    return { x: (event.clientX - rect.left) * by, y: (event.clientY - rect.top) * by };
  };
  const onPointerDown = (event: PointerEvent<HTMLDivElement>) => {
    const spot = spotOf(event.target as Element);
    if (!spot) return;
    onChoose(spot);
    const { x, y } = at(event);
    const axis = sheet.panels[0]?.box;
    const end =
      spot.part === "left" && axis
        ? y < axis.top + NEAR
          ? "high"
          : y > axis.bottom - NEAR
            ? "low"
            : undefined
        : undefined;
    const named = spot.part === "line" && (event.target as Element).tagName === "text";
    const held = spot.part === "line" && !named && standing.has(spot.key);
    if (spot.part !== "note" && !end && !named && !held) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const value = held ? sheet.panels[0]?.left.toValue(y) : undefined;
    setDrag({ spot, end, x, y, moved: false, picture, ...(value === undefined ? {} : { value }) });
  };
  const onPointerMove = (event: PointerEvent<HTMLDivElement>) => {
    if (!drag) return;
    const { x, y } = at(event);
    if (!drag.moved && Math.hypot(x - drag.x, y - drag.y) < STARTED) return;
    if (drag.value !== undefined) {
      setDrag({ ...drag, moved: true, value: sheet.panels[0]?.left.toValue(y) ?? drag.value });
      return;
    }
    const next = dragged(picture, drag, x, y, sheet);
    setDrag({ ...drag, moved: true, picture: next });
    onPreview(next);
  };
  const onPointerUp = () => {
    if (drag?.moved && drag.value !== undefined) onStand(drag.spot.key, rounded(drag.value, sheet));
    else if (drag?.moved) onCommit(drag.picture, `${SAID[drag.spot.part] ?? "Picture"} moved`);
    setDrag(undefined);
  };
  const nudgeNote = (event: KeyboardEvent) => {
    const by = { ArrowLeft: [-4, 0], ArrowRight: [4, 0], ArrowUp: [0, -4], ArrowDown: [0, 4] }[event.key];
    if (!by || chosen?.part !== "note") return;
    event.preventDefault();
    const n = Number(chosen.key);
    const free = picture.free.map((note, k) =>
      k === n ? { ...note, dx: note.dx + (by[0] ?? 0), dy: note.dy + (by[1] ?? 0) } : note,
    );
    onCommit({ ...picture, free }, "Note moved");
  };
  return (
    <div
      className={`sheet-frame${page.ground === "clear" ? " clear" : ""}`}
      style={{ aspectRatio: `${page.width} / ${page.height}`, "--sheet": page.width / page.height } as object}
    >
      <div
        ref={box}
        className="sheet"
        role="img"
        aria-label={alt}
        tabIndex={0}
        data-chosen={chosen?.key ?? chosen?.part}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onKeyDown={nudgeNote}
        // our own drawing, with every text in it escaped
        dangerouslySetInnerHTML={{ __html: svg }}
      />
      {drag?.moved && drag.value !== undefined && (
        <div
          className="sheet-ghost"
          style={{ top: `${(100 * (sheet.panels[0]?.left.toY(drag.value) ?? 0)) / sheet.height}%` }}
        >
          {formatNumber(rounded(drag.value, sheet))}
        </div>
      )}
    </div>
  );
}

const SAID: Record<string, string> = { note: "Note", left: "End of the scale", line: "Name" };

function spotOf(target: Element): Spot | undefined {
  const found = target.closest("[data-line],[data-part],[data-note]");
  if (!(found instanceof SVGElement)) return undefined;
  const { line, part, note } = found.dataset;
  if (line !== undefined) return { part: "line", key: line };
  if (note !== undefined) return { part: "note", key: note };
  return part ? { part, key: "" } : undefined;
}

/** To a hundredth of a step of the scale. */
function rounded(value: number, sheet: Drawn): number {
  const [first, second] = sheet.panels[0]?.left.ticks ?? [];
  const step = first && second ? Math.abs(second.at - first.at) / 50 : 1;
  return Number((Math.round(value / step) * step).toPrecision(8));
}

/** The picture with what is dragged at a place of the sheet. */
function dragged(picture: Picture, drag: Drag, x: number, y: number, sheet: Drawn): Picture {
  const panel = sheet.panels[0];
  if (!panel) return picture;
  if (drag.spot.part === "note") {
    const n = Number(drag.spot.key);
    const free = picture.free.map((note, k) => {
      if (k !== n) return note;
      const [px, py] = [sheet.toX(note.at), panel.left.toY(note.value)];
      return { ...note, dx: Math.round(x - px), dy: Math.round(y - py) };
    });
    return { ...picture, free };
  }
  if (drag.end) {
    const { box, left } = panel;
    const [first, second] = left.ticks;
    const step = first && second ? Math.abs(second.at - first.at) / 4 : 1;
    const share = (drag.y - y) / (box.bottom - box.top);
    const end = drag.end === "high" ? left.max : left.min;
    const wanted = end - share * (left.max - left.min);
    const value = Number((Math.round(wanted / step) * step).toPrecision(10));
    if (drag.end === "high" ? value <= left.min : value >= left.max) return picture;
    return { ...picture, left: { ...picture.left, [drag.end]: { kind: "value", value } } } as Picture;
  }
  const { box } = panel;
  const where =
    y > box.bottom + 12
      ? "key"
      : x < box.left + (box.right - box.left) * 0.33
        ? "start"
        : x < box.right
          ? "peak"
          : "end";
  return {
    ...picture,
    lines: picture.lines.map((line) =>
      line.id === drag.spot.key ? { ...line, named: where } : line,
    ) as Picture["lines"],
  };
}
