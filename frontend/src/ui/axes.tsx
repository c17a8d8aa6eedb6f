import type { Scale, Tick } from "../figure/scale";

/** Where the lines of a small chart may go, in pixels. */
export interface Room {
  left: number;
  right: number;
  top: number;
  bottom: number;
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
