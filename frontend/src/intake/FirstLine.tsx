import { useEffect, useMemo, useRef, useState } from "react";
import type { Figure, Understanding } from "../api/client";
import { useLook } from "../app/look";
import { SANS } from "../figure/palette";
import { fullWindow, roomForNumbers } from "../figure/frame";
import { sceneOf } from "../figure/scene";
import { Painted } from "../ui/Painted";

const HEIGHT = 210;

/** The line that would begin, so that a misreading is seen before it is believed. */
export function FirstLine({ now }: { now: Understanding }) {
  const { figure } = now;
  const names = figure.series.map((series) => series.name);
  const title = figure.scales[0]?.title;
  return (
    <section className="first-line" aria-label="The line that begins">
      <h3>
        The line that begins{" "}
        <small className="muted">
          {title ? `${title}: ` : ""}
          {names.slice(0, 4).join(", ")}
          {names.length > 4 ? ` and ${names.length - 4} more` : ""}
        </small>
      </h3>
      <SmallChart figure={figure} />
    </section>
  );
}

function SmallChart({ figure }: { figure: Figure }) {
  const box = useRef<HTMLDivElement>(null);
  const { palette } = useLook();
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const watch = new ResizeObserver(([entry]) => setWidth(Math.floor(entry?.contentRect.width ?? 0)));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const nodes = useMemo(() => {
    if (width < 80 || !figure.series.length) return undefined;
    const [from, to] = fullWindow(figure);
    const left = roomForNumbers(figure);
    return sceneOf(figure, { width, height: HEIGHT, from, to, palette, font: SANS, left });
  }, [figure, palette, width]);
  return (
    <div ref={box} className="first-line-chart" style={{ height: HEIGHT }}>
      {nodes && <Painted nodes={nodes} width={width} height={HEIGHT} font={SANS} />}
      {!figure.series.length && <p className="muted">No line: no period has a number.</p>}
    </div>
  );
}
