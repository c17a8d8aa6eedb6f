import { useEffect, useMemo, useRef, useState, type ReactNode, type RefObject } from "react";
import type { Scale, Tick } from "../figure/scale";

/** A small chart of our own: as wide as there is room, with its axes. */
export function SmallChart({
  title,
  note,
  height,
  right = 16,
  draw,
  label,
}: {
  title: string;
  note?: string;
  height: number;
  right?: number;
  label: string;
  draw: (room: Room) => ReactNode;
}) {
  const [holder, width] = useWidth();
  const room = useMemo<Room>(
    () => ({ left: 46, right: Math.max(120, width) - right, top: 8, bottom: height - 22 }),
    [width, height, right],
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

export interface Room {
  left: number;
  right: number;
  top: number;
  bottom: number;
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

/** Grid lines with their numbers at the left. */
export function ValueGrid({
  scale,
  room,
  tell,
}: {
  scale: Scale;
  room: Room;
  tell?: (tick: Tick) => string;
}) {
  return scale.ticks.map((tick) => (
    <g key={tick.at}>
      <line
        className="grid"
        x1={room.left}
        x2={room.right}
        y1={scale.toPixel(tick.at)}
        y2={scale.toPixel(tick.at)}
      />
      <text x={room.left - 7} y={scale.toPixel(tick.at) + 4} textAnchor="end">
        {tell ? tell(tick) : tick.label}
      </text>
    </g>
  ));
}

export function FootTicks({ scale, room }: { scale: Scale; room: Room }) {
  return (
    <g>
      <line className="foot" x1={room.left} x2={room.right} y1={room.bottom} y2={room.bottom} />
      {scale.ticks.map((tick) => (
        <text
          key={tick.at}
          x={scale.toPixel(tick.at)}
          y={room.bottom + 15}
          textAnchor="middle"
          className={tick.strong ? "strong" : undefined}
        >
          {tick.label}
        </text>
      ))}
    </g>
  );
}
