import { useEffect, useMemo, useRef } from "react";
import { useLook } from "../app/look";
import type { Palette } from "../figure/palette";
import { type Box, type Scale, lowerBound } from "../figure/scale";
import { shapesOf, type Figure, type Sign } from "../figure/types";
import { formatNumber } from "../ui/format";
import { usePeriod, usePointer } from "./pointer";
import { nearestPeriod, periodsOf, wordFor } from "../figure/reading";

const MOST_ROWS = 6;

interface Props {
  figure: Figure;
  time: Scale;
  box: Box;
  width: number;
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
export function ConditionStrip({ figure, time, box, width, onStretch }: Props) {
  const pointer = usePointer();
  const [from, to] = time.domain;
  const { palette } = useLook();
  const canvas = useRef<HTMLCanvasElement>(null);
  const every = useMemo(() => stripRows(figure), [figure]);
  const rows = useMemo(() => every.slice(0, MOST_ROWS), [every]);
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
      drawRow(
        pen,
        row,
        { from, to, width: inner, top: n * (rowHeight + 1), height: rowHeight },
        figure.signs,
        palette,
      ),
    );
  }, [rows, from, to, inner, height, rowHeight, figure.signs, palette]);

  const choose = (at_: number, lane: number, x: number) => {
    const row = rows[Math.max(0, Math.min(rows.length - 1, lane))];
    if (!row) return;
    const near = nearestPeriod(row.t, at_);
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
  const present = useMemo(() => presentStates(figure, every), [figure, every]);
  return (
    <div className="strip" style={{ width }}>
      <canvas
        ref={canvas}
        style={{ marginLeft: box.left, width: inner, height }}
        role="application"
        tabIndex={0}
        onClick={(event) => {
          const { offsetX, offsetY } = event.nativeEvent;
          choose(time.toValue(box.left + offsetX), Math.floor(offsetY / (rowHeight + 1)), box.left + offsetX);
        }}
        onKeyDown={(event) => {
          const period = pointer.get();
          const ahead = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
          if (event.key === "Enter" && period !== undefined) choose(period, 0, time.toPixel(period));
          else if (ahead) {
            const at = period === undefined ? periods.length - 1 : lowerBound(periods, period) + ahead;
            pointer.set(periods[Math.max(0, Math.min(periods.length - 1, at))]);
          } else return;
          event.preventDefault();
        }}
        aria-label={`Condition of every ${figure.period}: ${[...present].map(([state, count]) => `${count} ${state}`).join(", ")}`}
        onMouseMove={(event) => {
          pointer.set(nearestPeriod(periods, time.toValue(box.left + event.nativeEvent.offsetX)));
        }}
        onMouseLeave={() => pointer.set(undefined)}
      />
      <StripMark time={time} height={height} />
      <div className="strip-key" style={{ marginLeft: box.left }}>
        {[...present].map(([state, count]) => (
          <span key={state} title={signOf(figure.signs, state)?.meaning}>
            <Swatch sign={signOf(figure.signs, state)} palette={palette} />
            {state}
            {!figure.thinned && <b> {formatNumber(count)}</b>}
          </span>
        ))}
      </div>
    </div>
  );
}

/** Where the pointer stands. */
function StripMark({ time, height }: { time: Scale; height: number }) {
  const period = usePeriod();
  const [from, to] = time.domain;
  if (period === undefined || period < from || period > to) return null;
  return <div className="strip-mark" style={{ left: time.toPixel(period), height }} />;
}

function signOf(signs: Sign[], state: string): Sign | undefined {
  return signs.find((sign) => sign.word === state);
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

/** Series and their projections end to end. */
function stripRows(figure: Figure): Row[] {
  return figure.series.map((series) => {
    const last = series.t.at(-1) ?? 0;
    const t = [...series.t];
    const state = [...series.c].map((code) => wordFor(figure, code));
    const ahead = shapesOf(figure, "curve", series.name).find((curve) => curve.rests === "projected");
    for (const at of ahead?.t ?? []) {
      if (at <= last) continue;
      t.push(at);
      state.push("projected");
    }
    return {
      series: series.name,
      own: series.t.length,
      places: series.places,
      t,
      state,
      step: figure.grain === "moment" ? undefined : usualStep(series.t),
    };
  });
}

function usualStep(t: number[]): number {
  const gaps = t.slice(1, 200).map((at, n) => at - (t[n] ?? at));
  return gaps.sort((a, b) => a - b)[gaps.length >> 1] ?? 86_400_000;
}

/** How often each condition stands in all series drawn, those without a row of their own too. */
function presentStates(figure: Figure, rows: Row[]): Map<string, number> {
  const counts = new Map<string, number>();
  for (const row of rows) for (const state of row.state) counts.set(state, (counts.get(state) ?? 0) + 1);
  const order = figure.signs.map((sign) => sign.word);
  return new Map([...counts].sort((a, b) => order.indexOf(a[0]) - order.indexOf(b[0])));
}

interface Lane {
  from: number;
  to: number;
  width: number;
  top: number;
  height: number;
}

/** Measured first, then what is rare on top, at least two pixels wide, so that one day is seen in years. */
function drawRow(pen: CanvasRenderingContext2D, row: Row, lane: Lane, signs: Sign[], palette: Palette): void {
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
      if (to > from) paint(pen, signOf(signs, span.state), from, lane.top, to - from, lane.height, palette);
    }
  }
}

/** A stretch in the texture of its condition: by shape first, and by colour. */
function paint(
  pen: CanvasRenderingContext2D,
  sign: Sign | undefined,
  x: number,
  y: number,
  width: number,
  height: number,
  palette: Palette,
): void {
  const tone = palette[(sign?.tone ?? "muted") as keyof Palette] as string;
  pen.save();
  pen.beginPath();
  pen.rect(x, y, width, height);
  pen.clip();
  pen.fillStyle = sign?.texture === "solid" ? tone : palette.card;
  pen.fillRect(x, y, width, height);
  if (sign?.texture === "hatched" || sign?.texture === "upright") {
    const { gap } = sign;
    pen.strokeStyle = tone;
    pen.lineWidth = gap > 4 ? 1.3 : 1.8;
    pen.beginPath();
    for (let at = Math.floor((x - height) / gap) * gap; at < x + width + height; at += gap) {
      pen.moveTo(at, y + height);
      pen.lineTo(sign.texture === "upright" ? at : at + height, y);
    }
    pen.stroke();
  } else if (sign?.texture === "struck" || sign?.texture === "outlined") {
    pen.strokeStyle = tone;
    pen.lineWidth = 1;
    pen.strokeRect(x + 0.5, y + 0.5, Math.max(1, width - 1), height - 1);
    if (sign.texture === "struck") {
      pen.fillStyle = tone;
      pen.fillRect(x, y + height / 2 - 0.5, width, 1);
    }
  }
  pen.restore();
}

function Swatch({ sign, palette }: { sign: Sign | undefined; palette: Palette }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    pen.clearRect(0, 0, 32, 20);
    pen.setTransform(2, 0, 0, 2, 0, 0);
    paint(pen, sign, 0, 0, 16, 10, palette);
  }, [sign, palette]);
  return <canvas ref={canvas} className="strip-swatch" width={32} height={20} aria-hidden />;
}
