import { useRef, type KeyboardEvent, type ReactNode } from "react";
import type { Figure } from "../figure/types";
import { colourOf } from "./draw/colour";
import { keyOf, linesOf } from "./draw/sheet";
import { dashOf } from "./draw/strokes";

interface CardProps {
  chosen: boolean;
  label: string;
  onChoose: () => void;
  /** Whether it can be moved among the lines; by how many places. */
  onMove?: (by: number) => void;
  children: ReactNode;
}

/** The card of a sentence of the picture; that of a line is moved by its grip, or by Alt and the arrow keys. */
export function DressCard({ chosen, label, onChoose, onMove, children }: CardProps) {
  const start = useRef<number>(undefined);
  const onKeyDown = (event: KeyboardEvent) => {
    const by = event.altKey ? { ArrowUp: -1, ArrowDown: 1 }[event.key] : undefined;
    if (!by || !onMove) return;
    event.preventDefault();
    onMove(by);
  };
  return (
    <section
      className={chosen ? "dress-card chosen" : "dress-card"}
      aria-label={label}
      ref={(element) => {
        if (chosen && element && !element.contains(document.activeElement))
          element.scrollIntoView({ block: "nearest" });
      }}
      onPointerDown={onChoose}
      onFocus={onChoose}
      onKeyDown={onKeyDown}
    >
      {onMove && (
        <button
          type="button"
          className="dress-grip"
          aria-label={`Move ${label}: drag, or Alt with the arrow keys`}
          title="Drag to another place, or Alt ↑ ↓"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            start.current = event.clientY;
          }}
          onPointerUp={(event) => {
            const height = event.currentTarget.closest("section")?.offsetHeight ?? 60;
            const by = Math.round((event.clientY - (start.current ?? event.clientY)) / height);
            start.current = undefined;
            if (by) onMove(by);
          }}
        />
      )}
      {children}
    </section>
  );
}

/** A line as it is drawn, small. */
export function Swatch({ figure, line }: { figure: Figure; line: string }) {
  const { page } = figure;
  const found = linesOf(figure).find((drawn) => keyOf(drawn) === line);
  if (!page || !found) return <svg className="dress-swatch" width="24" height="10" aria-hidden="true" />;
  const { look } = found;
  const ink = colourOf(look.colour, page);
  const filled = look.role === "area" || look.drawn === "bars";
  return (
    <svg className="dress-swatch" width="24" height="10" aria-hidden="true">
      {filled ? (
        <rect x="0" y="1" width="24" height="8" fill={ink} opacity={look.role === "area" ? 0.3 : 0.75} />
      ) : (
        <line
          x1="0"
          x2="24"
          y1="5"
          y2="5"
          stroke={ink}
          strokeWidth={Math.min(6, look.weight)}
          strokeDasharray={look.role === "projection" ? "6 4" : dashOf(look.dash)}
        />
      )}
    </svg>
  );
}
