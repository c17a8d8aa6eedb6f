import { useEffect, useMemo, useRef } from "react";
import type { Figure, FigureLine } from "../api/client";
import { useLook } from "../app/look";
import type { Palette } from "../app/theme";
import { lowerBound, type Box } from "../figure/scale";
import { formatNumber } from "../ui/format";
import { nearestPeriod, periodsOf } from "./reading";

const MOST_ROWS = 6;

interface Props {
  figure: Figure;
  from: number;
  to: number;
  box: Box;
  width: number;
  period: number | undefined;
  onPeriod: (period: number | undefined) => void;
  onStretch: (stretch: Stretch) => void;
}

/** Neighbouring periods of one series in one condition. at: place of the first; x: where it was asked for. */
export interface Stretch {
  series: string;
  state: string;
  at: number;
  count: number;
  x: number;
}

/** The condition of every period, one row a series, aligned with the chart's time axis. */
export function ConditionStrip({ figure, from, to, box, width, period, onPeriod, onStretch }: Props) {
  const { palette } = useLook();
  const canvas = useRef<HTMLCanvasElement>(null);
  const rows = useMemo(() => stripRows(figure), [figure]);
  const periods = useMemo(() => periodsOf(figure), [figure]);
  const rowHeight = rows.length === 1 ? 14 : rows.length === 2 ? 9 : 6;
  const height = rows.length * (rowHeight + 1);
  const inner = box.right - box.left;

  useEffect(() => {
    const element = canvas.current;
    const pen = element?.getContext("2d");
    if (!element || !pen || inner <= 0) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = inner * ratio;
    element.height = height * ratio;
    pen.scale(ratio, ratio);
    pen.clearRect(0, 0, inner, height);
    rows.forEach((row, n) =>
      drawRow(pen, row, { from, to, width: inner, top: n * (rowHeight + 1), height: rowHeight }, palette),
    );
  }, [rows, from, to, inner, height, rowHeight, palette]);

  const choose = (time: number, lane: number, x: number) => {
    const row = rows[Math.max(0, Math.min(rows.length - 1, lane))];
    if (!row) return;
    const near = nearestPeriod(row.t, time);
    const n = near === undefined ? -1 : lowerBound(row.t, near);
    if (n < 0 || n >= row.own) return;
    let [first, last] = [n, n];
    while (first > 0 && row.state[first - 1] === row.state[n]) first--;
    while (last + 1 < row.own && row.state[last + 1] === row.state[n]) last++;
    // a measured stretch is long: only the period itself is meant
    if (row.state[n] === "measured") [first, last] = [n, n];
    const [at, end] = [row.places[first] ?? first, row.places[last] ?? last];
    onStretch({ series: row.series, state: row.state[n] ?? "", at, count: end - at + 1, x });
  };
  const present = useMemo(() => presentStates(figure), [figure]);
  return (
    <div className="strip" style={{ width }}>
      <canvas
        ref={canvas}
        style={{ marginLeft: box.left, width: inner, height }}
        role="application"
        tabIndex={0}
        onClick={(event) => {
          const { offsetX, offsetY } = event.nativeEvent;
          choose(
            from + (offsetX / inner) * (to - from),
            Math.floor(offsetY / (rowHeight + 1)),
            box.left + offsetX,
          );
        }}
        onKeyDown={(event) => {
          const ahead = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
          if (event.key === "Enter" && period !== undefined)
            choose(period, 0, box.left + ((period - from) / (to - from)) * inner);
          else if (ahead) {
            const at = period === undefined ? periods.length - 1 : lowerBound(periods, period) + ahead;
            onPeriod(periods[Math.max(0, Math.min(periods.length - 1, at))]);
          } else return;
          event.preventDefault();
        }}
        aria-label={`Condition of every ${figure.period}: ${[...present].map(([state, count]) => `${count} ${state}`).join(", ")}`}
        onMouseMove={(event) => {
          const x = event.nativeEvent.offsetX / inner;
          onPeriod(nearestPeriod(periods, from + x * (to - from)));
        }}
        onMouseLeave={() => onPeriod(undefined)}
      />
      {period !== undefined && period >= from && period <= to && (
        <div
          className="strip-mark"
          style={{ left: box.left + ((period - from) / (to - from)) * inner, height }}
        />
      )}
      <div className="strip-key" style={{ marginLeft: box.left }}>
        {[...present].map(([state, count]) => (
          <span key={state}>
            <Swatch state={state} palette={palette} />
            {state}
            {!figure.thinned && <b> {formatNumber(count)}</b>}
          </span>
        ))}
      </div>
    </div>
  );
}

/** own: how many of the periods are the series' own; projected ones follow. */
interface Row {
  series: string;
  own: number;
  places: number[];
  t: number[];
  state: string[];
  /** Length of a period; undefined for dates as they come, of which each lasts until the next. */
  step: number | undefined;
}

/** Series and their projections end to end, the first `most` shown series. */
function stripRows(figure: Figure, most = MOST_ROWS): Row[] {
  return figure.lines
    .filter((line) => line.role === "series")
    .slice(0, most)
    .map((line) => {
      const ahead = figure.lines.find((other) => other.role === "projection" && other.series === line.series);
      const last = line.t.at(-1) ?? 0;
      const t = [...line.t];
      const state = line.t.map((_, n) => stateOf(line, n));
      ahead?.t.forEach((at) => {
        if (at <= last) return;
        t.push(at);
        state.push("projected");
      });
      return {
        series: line.series,
        own: line.t.length,
        places: line.places ?? [],
        t,
        state,
        step: figure.grain === "moment" ? undefined : usualStep(line.t),
      };
    });
}

function usualStep(t: number[]): number {
  const gaps = t.slice(1, 200).map((at, n) => at - (t[n] ?? at));
  return gaps.sort((a, b) => a - b)[gaps.length >> 1] ?? 86_400_000;
}

/** One word for a point: why it has no number, or what its number is. */
function stateOf(line: FigureLine, n: number): string {
  const code = line.c[n];
  if (code === "o" || code === "b") {
    const came = line.r?.[n];
    return code === "b" ? "bridged" : came === "a" ? "absent" : came === "u" ? "unreadable" : "blank";
  }
  return (
    { f: "filled", s: "set aside", t: "set aside", a: "adjusted", p: "provisional" }[code ?? ""] ?? "measured"
  );
}

const ORDER = [
  "measured",
  "filled",
  "bridged",
  "blank",
  "absent",
  "unreadable",
  "set aside",
  "adjusted",
  "provisional",
  "projected",
];

/** How often each condition stands in all series drawn, those without a row of their own too. */
function presentStates(figure: Figure): Map<string, number> {
  const counts = new Map<string, number>();
  for (const row of stripRows(figure, Infinity))
    for (const state of row.state) counts.set(state, (counts.get(state) ?? 0) + 1);
  return new Map([...counts].sort((a, b) => ORDER.indexOf(a[0]) - ORDER.indexOf(b[0])));
}

interface Lane {
  from: number;
  to: number;
  width: number;
  top: number;
  height: number;
}

/** Measured first, then what is rare on top, at least two pixels wide, so that one day is seen in years. */
function drawRow(pen: CanvasRenderingContext2D, row: Row, lane: Lane, palette: Palette): void {
  const scale = lane.width / (lane.to - lane.from);
  const first = Math.max(0, lowerBound(row.t, lane.from) - 1);
  const spans: { state: string; x: number; end: number }[] = [];
  for (let n = first; n < row.t.length && (row.t[n] ?? 0) <= lane.to; n++) {
    const state = row.state[n] ?? "measured";
    const at = row.t[n] ?? 0;
    const [back, on] = row.step ? [row.step / 2, row.step / 2] : [0, (row.t[n + 1] ?? lane.to) - at];
    const x = (at - back - lane.from) * scale;
    const end = (at + on - lane.from) * scale;
    const last = spans.at(-1);
    if (last?.state === state && x - last.end < 1) last.end = end;
    else spans.push({ state, x, end });
  }
  for (const rare of [false, true]) {
    for (const span of spans) {
      if ((span.state !== "measured") !== rare) continue;
      const from = Math.max(0, span.x);
      const to = Math.min(lane.width, Math.max(span.end, span.x + (rare ? 2 : 0)));
      if (to > from) paint(pen, span.state, from, lane.top, to - from, lane.height, palette);
    }
  }
}

function paint(
  pen: CanvasRenderingContext2D,
  state: string,
  x: number,
  y: number,
  width: number,
  height: number,
  palette: Palette,
): void {
  pen.save();
  pen.beginPath();
  pen.rect(x, y, width, height);
  pen.clip();
  const solid: Record<string, string> = {
    measured: palette.lagoonSoft,
    "set aside": palette.ember,
    adjusted: palette.lagoon,
  };
  pen.fillStyle = solid[state] ?? palette.card;
  pen.fillRect(x, y, width, height);
  const hatch: Record<string, [string, number]> = {
    filled: [palette.lagoon, 4],
    bridged: [palette.lagoonSoft, 6],
    provisional: [palette.wheat, 4],
    projected: [palette.iris, 6],
    unreadable: [palette.ember, 3],
  };
  const stripes = hatch[state];
  if (stripes) {
    const [colour, gap] = stripes;
    pen.strokeStyle = colour;
    pen.lineWidth = state === "projected" || state === "bridged" ? 1.3 : 1.8;
    pen.beginPath();
    const upright = state === "provisional";
    for (let at = Math.floor((x - height) / gap) * gap; at < x + width + height; at += gap) {
      pen.moveTo(at, y + height);
      pen.lineTo(upright ? at : at + height, y);
    }
    pen.stroke();
  } else if (state === "blank" || state === "absent") {
    pen.strokeStyle = state === "absent" ? palette.ink : palette.muted;
    pen.lineWidth = 1;
    pen.strokeRect(x + 0.5, y + 0.5, Math.max(1, width - 1), height - 1);
    if (state === "blank") {
      pen.fillStyle = palette.muted;
      pen.fillRect(x, y + height / 2 - 0.5, width, 1);
    }
  }
  pen.restore();
}

function Swatch({ state, palette }: { state: string; palette: Palette }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    pen.clearRect(0, 0, 32, 20);
    pen.setTransform(2, 0, 0, 2, 0, 0);
    paint(pen, state, 0, 0, 16, 10, palette);
  }, [state, palette]);
  return <canvas ref={canvas} className="strip-swatch" width={32} height={20} aria-hidden />;
}
