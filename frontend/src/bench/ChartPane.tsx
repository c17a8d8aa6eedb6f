import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { Figure } from "../api/client";
import { useLook } from "../app/look";
import { SANS } from "../app/theme";
import { echarts } from "../figure/draw";
import { plotBox, type Frame } from "../figure/frame";
import { figureOptions } from "../figure/options";
import { ConditionStrip, type Stretch } from "./ConditionStrip";
import { nearestPeriod, periodsOf } from "./reading";
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
  const frame = useMemo<Frame>(() => ({ ...size, from, to, palette, font: SANS }), [size, from, to, palette]);
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
        onMouseMove={(event) => {
          const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
          onPeriod(x < box.left - 4 || x > box.right + 4 ? undefined : nearestPeriod(periods, toTime(x)));
        }}
        onMouseLeave={() => onPeriod(undefined)}
      >
        <div ref={holder} className="chart-canvas" />
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
