import { useRef, type KeyboardEvent, type PointerEvent } from "react";

const STEP = 16;

interface Props {
  label: string;
  /** Which way the edge moves: x beside each other, y one above the other. */
  way: "x" | "y";
  /** Size in pixels of what is before the edge, or after it where `after` is set. */
  size: number;
  least: number;
  most: number;
  after?: boolean;
  onSize: (size: number) => void;
  onDouble?: () => void;
}

/** The edge between two panes: dragged, moved by arrow keys, and closed or opened by a double click. The component library's has
 * no arrow keys. */
export function Splitter({ label, way, size, least, most, after, onSize, onDouble }: Props) {
  const start = useRef<{ at: number; size: number } | undefined>(undefined);
  const sign = after ? -1 : 1;
  const set = (wanted: number) => onSize(Math.round(Math.min(most, Math.max(least, wanted))));
  const at = (event: PointerEvent) => (way === "x" ? event.clientX : event.clientY);
  const onKeyDown = (event: KeyboardEvent) => {
    const ways: Record<string, number> =
      way === "x" ? { ArrowLeft: -1, ArrowRight: 1 } : { ArrowUp: -1, ArrowDown: 1 };
    const move = ways[event.key];
    if (move) set(size + sign * move * STEP * (event.shiftKey ? 4 : 1));
    else if (event.key === "Home") set(least);
    else if (event.key === "End") set(most);
    else if (event.key === "Enter" && onDouble) onDouble();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      className={`splitter ${way}`}
      role="separator"
      tabIndex={0}
      aria-label={label}
      aria-orientation={way === "x" ? "vertical" : "horizontal"}
      aria-valuenow={size}
      aria-valuemin={least}
      aria-valuemax={most}
      title={onDouble ? "Drag, or double-click to close or open" : "Drag"}
      onKeyDown={onKeyDown}
      onDoubleClick={onDouble}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        start.current = { at: at(event), size };
      }}
      onPointerMove={(event) => {
        const from = start.current;
        if (from && at(event) !== from.at) set(from.size + sign * (at(event) - from.at));
      }}
      onPointerUp={() => (start.current = undefined)}
    />
  );
}
