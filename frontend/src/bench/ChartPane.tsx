import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { Figure } from "../api/client";
import { useLook } from "../app/look";
import { SANS } from "../app/theme";
import { echarts } from "../figure/draw";
import { lineAt, plotBox, roomForNumbers, type Frame } from "../figure/frame";
import { figureOptions } from "../figure/options";
import { ConditionStrip, type Stretch } from "./ConditionStrip";
import { lowerBound } from "../figure/scale";
import { CONDITIONS, nearestPeriod, periodsOf } from "./reading";
import { Overview } from "./Overview";
import { ReadingBox } from "./ReadingBox";
import type { ShownWindow } from "./window";

interface Props {
  figure: Figure;
  shown: ShownWindow;
  period: number | undefined;
  onPeriod: (period: number | undefined) => void;
  onStretch: (stretch: Stretch) => void;
}

/** The chart with its reading, the condition strip under it, and the overview. */
export function ChartPane({ figure, shown, period, onPeriod, onStretch }: Props) {
  const { palette } = useLook();
  const holder = useRef<HTMLDivElement>(null);
  const chart = useRef<ReturnType<typeof echarts.init> | undefined>(undefined);
  const [size, setSize] = useState({ width: 900, height: 330 });
  const [fontsReady, setFontsReady] = useState(false);
  const [from, to] = shown.range;
  const left = useMemo(() => roomForNumbers(figure), [figure]);
  const frame = useMemo<Frame>(
    () => ({ ...size, from, to, palette, font: SANS, left }),
    [size, from, to, palette, left],
  );
  const periods = useMemo(() => periodsOf(figure), [figure]);

  useEffect(() => {
    const box = holder.current;
    if (!box) return;
    const made = echarts.init(box);
    chart.current = made;
    const watch = new ResizeObserver(() => {
      setSize({ width: box.clientWidth, height: box.clientHeight });
      made.resize();
    });
    watch.observe(box);
    void document.fonts.ready.then(() => setFontsReady(true));
    return () => {
      watch.disconnect();
      made.dispose();
    };
  }, []);
  useEffect(() => {
    chart.current?.setOption(figureOptions(figure, frame), { notMerge: true });
  }, [figure, frame, fontsReady]);

  const box = plotBox(frame);
  const toTime = (x: number) => from + ((x - box.left) / (box.right - box.left)) * (to - from);
  const toX = (time: number) => box.left + ((time - from) / (to - from)) * (box.right - box.left);
  const drag = useRef<number | undefined>(undefined);
  const [dragged, setDragged] = useState<[number, number]>();
  const timeOf = (event: { clientX: number; currentTarget: HTMLElement }) =>
    toTime(event.clientX - event.currentTarget.getBoundingClientRect().left);
  /** Ask about the periods of a series between two times; a point where both are one. */
  const ask = (a: number, b: number, x: number, y: number) => {
    const line = lineAt(figure, frame, nearestPeriod(periods, (a + b) / 2), y);
    if (!line) return;
    const first = lowerBound(line.t, nearestPeriod(line.t, Math.min(a, b)) ?? 0);
    const last = lowerBound(line.t, nearestPeriod(line.t, Math.max(a, b)) ?? 0);
    const [at, end] = [line.places?.[first] ?? first, line.places?.[last] ?? last];
    const state = first === last ? (CONDITIONS[line.c[first] ?? ""] ?? "") : "chosen";
    onStretch({ series: line.series, state, at, count: end - at + 1, x });
  };
  const step = (by: number) => {
    const inside = periods.filter((t) => t >= from && t <= to);
    const at = period === undefined ? inside.length - 1 : inside.indexOf(period) + by;
    onPeriod(inside[Math.max(0, Math.min(inside.length - 1, at))]);
  };
  const zoom = (factor: number) => {
    const middle = period ?? (from + to) / 2;
    shown.set([middle - (middle - from) * factor, middle + (to - middle) * factor]);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const many = event.shiftKey ? 10 : 1;
    if (event.key === "ArrowLeft") step(-many);
    else if (event.key === "ArrowRight") step(many);
    else if (event.key === "Home") onPeriod(periods.find((t) => t >= from));
    else if (event.key === "End") onPeriod(periods.findLast((t) => t <= to));
    else if (event.key === "+" || event.key === "=") zoom(0.6);
    else if (event.key === "-") zoom(1 / 0.6);
    else if (event.key === "0") shown.set(undefined);
    else if (event.key === "Enter" && period !== undefined) ask(period, period, toX(period), box.top);
    else if (event.key === "Escape") onPeriod(undefined);
    else return;
    event.preventDefault();
  };
  if (!figure.lines.length) {
    return <div className="chart-empty">No series is shown. Choose one above the chart.</div>;
  }
  return (
    <div className="chart-pane">
      <div
        className="chart"
        tabIndex={0}
        role="application"
        aria-label={`Chart of ${figure.title || figure.measure}. Arrow keys read it; the Values tab holds it as a table.`}
        onKeyDown={onKeyDown}
        onMouseDown={(event) => {
          if (event.shiftKey) drag.current = timeOf(event);
        }}
        onMouseUp={(event) => {
          const box_ = event.currentTarget.getBoundingClientRect();
          const [x, y] = [event.clientX - box_.left, event.clientY - box_.top];
          if (x < box.left || x > box.right || y < box.top || y > box.bottom) return;
          const start = drag.current;
          drag.current = undefined;
          setDragged(undefined);
          ask(start ?? timeOf(event), timeOf(event), x, y);
        }}
        onMouseMove={(event) => {
          if (drag.current !== undefined) setDragged([drag.current, timeOf(event)]);
          const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
          onPeriod(x < box.left - 4 || x > box.right + 4 ? undefined : nearestPeriod(periods, toTime(x)));
        }}
        onMouseLeave={() => {
          drag.current = undefined;
          setDragged(undefined);
          onPeriod(undefined);
        }}
      >
        <div ref={holder} className="chart-canvas" />
        {dragged && (
          <div
            className="dragged"
            style={{
              left: toX(Math.min(...dragged)),
              width: Math.abs(toX(dragged[1]) - toX(dragged[0])),
              top: box.top,
              height: box.bottom - box.top,
            }}
          />
        )}
        {period !== undefined && period >= from && period <= to && (
          <ReadingBox figure={figure} period={period} x={toX(period)} box={box} width={size.width} />
        )}
      </div>
      <ConditionStrip
        figure={figure}
        from={from}
        to={to}
        box={box}
        width={size.width}
        period={period}
        onPeriod={onPeriod}
        onStretch={onStretch}
      />
      <Overview figure={figure} shown={shown} box={box} width={size.width} />
    </div>
  );
}
