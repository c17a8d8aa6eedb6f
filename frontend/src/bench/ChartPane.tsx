import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from "react";
import { useLook } from "../app/look";
import {
  heightNeeded,
  panelsOf,
  plotBox,
  roomForNumbers,
  seriesAt,
  type Frame,
  type Panel,
} from "../figure/frame";
import { SANS } from "../figure/palette";
import { sceneOf } from "../figure/scene";
import { timeScale, lowerBound } from "../figure/scale";
import type { Figure } from "../figure/types";
import { Painted } from "../ui/Painted";
import { ConditionStrip, type Stretch } from "./ConditionStrip";
import { Overview } from "./Overview";
import { usePointer } from "./pointer";
import { ReadingBox } from "./ReadingBox";
import { nearestPeriod, periodsOf, wordFor } from "../figure/reading";
import type { ShownWindow } from "./window";

interface Props {
  figure: Figure;
  shown: ShownWindow;
  onStretch: (stretch: Stretch) => void;
  /** What lies over the chart and is moved on it. */
  over?: (panels: Panel[]) => ReactNode;
}

/** The chart with its reading, the condition strip under it, and the overview. */
export function ChartPane({ figure, shown, onStretch, over }: Props) {
  const { palette } = useLook();
  const pointer = usePointer();
  const room = useRef<HTMLDivElement>(null);
  const [seen, setSeen] = useState({ width: 900, height: 330 });
  const [from, to] = shown.range;
  const left = useMemo(() => roomForNumbers(figure), [figure]);
  // many small charts need more height than there is: they scroll
  const height = heightNeeded(figure, seen.height);
  const frame = useMemo<Frame>(
    () => ({ width: seen.width, height, from, to, palette, font: SANS, left }),
    [seen.width, height, from, to, palette, left],
  );
  const panels = useMemo(() => panelsOf(figure, frame), [figure, frame]);
  const nodes = useMemo(() => sceneOf(figure, frame), [figure, frame]);
  const periods = useMemo(() => periodsOf(figure), [figure]);
  const pointedHeight = useRef<number | undefined>(undefined);

  useEffect(() => {
    const box = room.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setSeen({ width: box.clientWidth, height: box.clientHeight }));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);

  const box = plotBox(frame);
  const time = useMemo(() => timeScale(from, to, [box.left, box.right]), [from, to, box.left, box.right]);
  const drag = useRef<number | undefined>(undefined);
  const [dragged, setDragged] = useState<[number, number]>();
  const timeOf = (event: { clientX: number; currentTarget: HTMLElement }) =>
    time.toValue(event.clientX - event.currentTarget.getBoundingClientRect().left);
  /** Ask about the periods of a series between two times; a point where both are one. */
  const ask = (a: number, b: number, x: number, y: number) => {
    const line = seriesAt(figure, panels, nearestPeriod(periods, (a + b) / 2), y);
    if (!line) return;
    const first = lowerBound(line.t, nearestPeriod(line.t, Math.min(a, b)) ?? 0);
    const last = lowerBound(line.t, nearestPeriod(line.t, Math.max(a, b)) ?? 0);
    const [at, end] = [line.places[first] ?? first, line.places[last] ?? last];
    const state = first === last ? wordFor(figure, line.c[first]) : "chosen";
    onStretch({ series: line.name, state, at, count: end - at + 1, x });
  };
  const step = (by: number) => {
    const inside = periods.filter((t) => t >= from && t <= to);
    const period = pointer.get();
    const at = period === undefined ? inside.length - 1 : inside.indexOf(period) + by;
    pointer.set(inside[Math.max(0, Math.min(inside.length - 1, at))]);
  };
  const zoom = (factor: number) => {
    const middle = pointer.get() ?? (from + to) / 2;
    shown.set([middle - (middle - from) * factor, middle + (to - middle) * factor]);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const period = pointer.get();
    pointedHeight.current = undefined;
    const many = event.shiftKey ? 10 : 1;
    if (event.key === "ArrowLeft") step(-many);
    else if (event.key === "ArrowRight") step(many);
    else if (event.key === "Home") pointer.set(periods.find((t) => t >= from));
    else if (event.key === "End") pointer.set(periods.findLast((t) => t <= to));
    else if (event.key === "+" || event.key === "=") zoom(0.6);
    else if (event.key === "-") zoom(1 / 0.6);
    else if (event.key === "0") shown.set(undefined);
    else if (event.key === "Enter" && period !== undefined)
      ask(period, period, time.toPixel(period), box.top);
    else if (event.key === "Escape") pointer.set(undefined);
    else return;
    event.preventDefault();
  };
  return (
    <div className="chart-pane">
      <div
        ref={room}
        className="chart"
        tabIndex={0}
        role="application"
        aria-label={`Chart of ${figure.title || (figure.scales[0]?.title ?? "")}. Arrow keys read it; the Values tab holds it as a table.`}
        onKeyDown={onKeyDown}
        onWheel={(event) => {
          if (!event.ctrlKey && !event.metaKey) return;
          const middle = timeOf(event);
          const factor = event.deltaY > 0 ? 1.25 : 0.8;
          shown.set([middle - (middle - from) * factor, middle + (to - middle) * factor]);
        }}
        onMouseDown={(event) => {
          if (event.shiftKey) drag.current = timeOf(event);
        }}
        onMouseUp={(event) => {
          const box_ = event.currentTarget.getBoundingClientRect();
          const x = event.clientX - box_.left;
          const y = event.clientY - box_.top + event.currentTarget.scrollTop;
          if (x < box.left || x > box.right || y < box.top || y > box.bottom) return;
          const start = drag.current;
          drag.current = undefined;
          setDragged(undefined);
          ask(start ?? timeOf(event), timeOf(event), x, y);
        }}
        onMouseMove={(event) => {
          if (drag.current !== undefined) setDragged([drag.current, timeOf(event)]);
          const edge = event.currentTarget.getBoundingClientRect();
          const x = event.clientX - edge.left;
          pointedHeight.current = event.clientY - edge.top + event.currentTarget.scrollTop;
          pointer.set(
            x < box.left - 4 || x > box.right + 4 ? undefined : nearestPeriod(periods, time.toValue(x)),
          );
        }}
        onMouseLeave={() => {
          drag.current = undefined;
          setDragged(undefined);
          pointer.set(undefined);
        }}
      >
        <div className="chart-canvas" style={{ height }}>
          <Painted nodes={nodes} width={frame.width} height={height} font={SANS} />
        </div>
        {over?.(panels)}
        {figure.series.length === 0 && (
          <p className="chart-empty">No series is shown. Choose one above the chart.</p>
        )}
        {dragged && (
          <div
            className="dragged"
            style={{
              left: time.toPixel(Math.min(...dragged)),
              width: Math.abs(time.toPixel(dragged[1]) - time.toPixel(dragged[0])),
              top: box.top,
              height: box.bottom - box.top,
            }}
          />
        )}
        <ReadingBox
          figure={figure}
          panels={panels}
          width={frame.width}
          height={() => pointedHeight.current}
        />
      </div>
      <ConditionStrip figure={figure} time={time} box={box} width={frame.width} onStretch={onStretch} />
      <Overview figure={figure} shown={shown} box={box} width={frame.width} />
    </div>
  );
}
