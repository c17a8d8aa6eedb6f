import { useEffect, useMemo, useRef, useState, type ReactNode, type RefObject } from "react";
import { linearScale, niceRange, spread, type Scale } from "../figure/scale";
import type { Room } from "../ui/axes";
import type { Values } from "../ui/paths";

const LONGEST_NAME = 18;
const LEAST_LEFT = 46;
const DIGIT = 6.4; // pixels of a digit in the letters of small charts

/** A small chart of our own: as wide as there is room, with its axes. */
export function SmallChart({
  title,
  note,
  height,
  right = 16,
  numbers = [],
  draw,
  label,
}: {
  title: string;
  note?: string;
  height: number;
  right?: number;
  /** What the axis is to hold, so that its numbers have room. */
  numbers?: number[];
  label: string;
  draw: (room: Room) => ReactNode;
}) {
  const [holder, width] = useWidth();
  const left = axisWidth(numbers);
  const room = useMemo<Room>(
    () => ({ left, right: Math.max(120, width) - right, top: 8, bottom: height - 22 }),
    [left, width, height, right],
  );
  return (
    <figure className="small-chart" ref={holder}>
      <figcaption>
        <b>{title}</b> {note && <span className="muted">{note}</span>}
      </figcaption>
      <svg width={Math.max(120, width)} height={height} role="img" aria-label={label}>
        {draw(room)}
      </svg>
    </figure>
  );
}

/** How wide the numbers of an axis are, in pixels. */
function axisWidth(numbers: number[]): number {
  if (!numbers.length) return LEAST_LEFT;
  const { ticks } = linearScale(niceRange(Math.min(...numbers), Math.max(...numbers)), [300, 0]);
  const longest = Math.max(...ticks.map((tick) => tick.label.length));
  return Math.max(LEAST_LEFT, Math.ceil(longest * DIGIT) + 10);
}

function useWidth(): [RefObject<HTMLElement | null>, number] {
  const holder = useRef<HTMLElement>(null);
  const [width, setWidth] = useState(400);
  useEffect(() => {
    const box = holder.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setWidth(box.clientWidth));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  return [holder, width];
}

export interface EndName {
  name: string;
  /** The height it belongs at, in pixels. */
  y: number;
  colour: string;
}

/** The name of a line at its last number; none where it has none. */
export function endName(name: string, values: Values | undefined, value: Scale, colour: string): EndName[] {
  const last = values?.findLast((amount): amount is number => amount !== null);
  return last === undefined ? [] : [{ name, y: value.toPixel(last), colour }];
}

/** Names right of the ends of lines, none on another. */
export function EndNames({ names, room }: { names: EndName[]; room: Room }) {
  const places = spread(
    names.map((endName) => endName.y),
    15,
    room.top,
    room.bottom,
  );
  return names.map(({ name, colour }, n) => (
    <text key={name} x={room.right + 6} y={(places[n] ?? 0) + 4} style={{ fill: colour }}>
      {name.length > LONGEST_NAME ? `${name.slice(0, LONGEST_NAME - 1)}…` : name}
    </text>
  ));
}
