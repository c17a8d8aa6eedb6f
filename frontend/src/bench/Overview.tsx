import { useMemo, useRef, type KeyboardEvent, type PointerEvent } from "react";
import { useLook } from "../app/look";
import { colourOf } from "../figure/frame";
import { movedWindow, OVERVIEW_HEIGHT as HEIGHT, overviewPaths, type Grip } from "../figure/overview";
import { timeScale, type Box } from "../figure/scale";
import type { Figure } from "../figure/types";
import { formatPeriod } from "../ui/format";
import type { ShownWindow } from "./window";

const HANDLE = 7;

interface Props {
  figure: Figure;
  shown: ShownWindow;
  box: Box;
  width: number;
}

/** All of the time there is, with the shown window to drag, widen and narrow. */
export function Overview({ figure, shown, box, width }: Props) {
  const { palette } = useLook();
  const inner = Math.max(1, box.right - box.left);
  const [first, last] = shown.full;
  const time = timeScale(first, last, [0, inner]);
  const x = (at: number) => time.toPixel(at);
  const grip = useRef<{ which: Grip; startX: number; range: [number, number] } | undefined>(undefined);
  const paths = useMemo(() => overviewPaths(figure, first, last, inner), [figure, first, last, inner]);
  const [from, to] = shown.range;

  const shift = (which: Grip, by: number, range: [number, number]) => {
    const smallest = Math.min((last - first) / 50, 86_400_000 * 7);
    shown.set(movedWindow(which, by, range, shown.full, smallest));
  };
  const onDown = (which: Grip) => (event: PointerEvent<SVGElement>) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    grip.current = { which, startX: event.clientX, range: shown.range };
  };
  const onMove = (event: PointerEvent<SVGElement>) => {
    const held = grip.current;
    if (held) shift(held.which, ((event.clientX - held.startX) / inner) * (last - first), held.range);
  };
  const onUp = () => (grip.current = undefined);
  const onKeyDown = (which: Grip) => (event: KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way) return;
    event.preventDefault();
    shift(which, way * (last - first) * (event.shiftKey ? 0.1 : 0.01), shown.range);
  };
  const slider = (which: Grip, at: number, name: string) => ({
    tabIndex: 0,
    role: "slider",
    "aria-label": name,
    "aria-valuemin": first,
    "aria-valuemax": last,
    "aria-valuenow": at,
    "aria-valuetext": formatPeriod(at, figure.grain),
    onPointerDown: onDown(which),
    onPointerMove: onMove,
    onPointerUp: onUp,
    onKeyDown: onKeyDown(which),
  });
  return (
    <svg className="overview" width={width} height={HEIGHT + 4} aria-label="Overview">
      <g transform={`translate(${box.left},2)`}>
        <rect className="overview-back" width={inner} height={HEIGHT} />
        {paths.map(({ of, path }) => (
          <path
            key={"id" in of ? of.id : of.name}
            d={path}
            fill="none"
            stroke={colourOf(of, figure, palette)}
            opacity={0.7}
          />
        ))}
        <rect className="overview-shade" width={Math.max(0, x(from))} height={HEIGHT} />
        <rect className="overview-shade" x={x(to)} width={Math.max(0, inner - x(to))} height={HEIGHT} />
        <rect
          className="overview-window"
          x={x(from)}
          width={Math.max(2, x(to) - x(from))}
          height={HEIGHT}
          {...slider("body", from, "Shown window")}
        />
        <rect
          className="overview-handle"
          x={x(from) - HANDLE / 2}
          width={HANDLE}
          y={6}
          height={HEIGHT - 12}
          rx={2}
          {...slider("from", from, "Start of the shown window")}
        />
        <rect
          className="overview-handle"
          x={x(to) - HANDLE / 2}
          width={HANDLE}
          y={6}
          height={HEIGHT - 12}
          rx={2}
          {...slider("to", to, "End of the shown window")}
        />
      </g>
    </svg>
  );
}
