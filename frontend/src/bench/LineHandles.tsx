import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Bench } from "../api/client";
import type { Panel } from "../figure/frame";
import { shapesOf, type Figure } from "../figure/types";
import { formatNumber } from "../ui/format";
import { onWords } from "./edits";
import type { BenchHandle } from "./useBench";

interface Props {
  handle: BenchHandle;
  bench: Bench;
  figure: Figure;
  panels: Panel[];
  onSelect: (entry: string) => void;
}

interface Standing {
  kind: string;
  value: number;
}

/** Where the line of an entry stands, if that is a number of its sentence. */
function standing(bench: Bench, entry: string): Standing | undefined {
  const at = bench.entries.find((kept) => kept.id === entry)?.params.at as Standing | undefined;
  return at?.kind === "value" ? at : undefined;
}

/** Grips on the lines that stand at a value: dragged, or moved by arrow keys, they edit their sentence. */
export function LineHandles({ handle, bench, figure, panels, onSelect }: Props) {
  const [held, setHeld] = useState<{ entry: string; value: number }>();
  const rough = useRef(false);
  const kept = handle.kept ?? bench;
  const words = (value: number) => ({ at: { kind: "value", value } });
  const show = (entry: string, value: number) => {
    setHeld({ entry, value });
    const ledger = onWords(entry, words(value))({ ledger: kept.ledger, settings: kept.settings });
    handle.preview(ledger, entry);
  };
  const keep = (entry: string, value: number) => {
    setHeld(undefined);
    const before = { at: standing(kept, entry) };
    void handle.commit(onWords(entry, words(value), before), `Line moved to ${formatNumber(value)}`);
  };
  const drop = () => {
    setHeld(undefined);
    handle.preview(undefined);
  };
  return panels.flatMap((panel) =>
    shapesOf({ ...figure, shapes: panel.shapes }, "rule").flatMap((rule) => {
      const at = standing(bench, rule.entry);
      if (rule.v === null || !at) return [];
      const { entry } = rule;
      const value = held?.entry === entry ? held.value : at.value;
      const y = panel.value.toPixel(value);
      if (held?.entry !== entry && (y < panel.box.top - 1 || y > panel.box.bottom + 1)) return [];
      const step = niceStep(panel);
      const onPointerDown = (event: PointerEvent<HTMLElement>) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        event.stopPropagation();
        rough.current = true;
        onSelect(entry);
        setHeld({ entry, value: at.value });
      };
      const onPointerMove = (event: PointerEvent<HTMLElement>) => {
        if (!rough.current) return;
        const chart = event.currentTarget.parentElement?.getBoundingClientRect();
        if (!chart) return;
        const wanted = panel.value.toValue(event.clientY - chart.top);
        show(entry, Number((Math.round(wanted / step) * step).toPrecision(12)));
      };
      const onPointerUp = () => {
        if (!rough.current) return;
        rough.current = false;
        if (held && held.value !== standing(kept, entry)?.value) keep(entry, held.value);
        else drop();
      };
      const onKeyDown = (event: KeyboardEvent) => {
        const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
        if (way) show(entry, Number((value + way * step * (event.shiftKey ? 10 : 1)).toPrecision(12)));
        else if (event.key === "Enter" && held) keep(entry, held.value);
        else if (event.key === "Escape" && held) drop();
        else return;
        event.preventDefault();
        event.stopPropagation();
      };
      return [
        <div
          key={rule.id}
          className={held?.entry === entry ? "line-grip held" : "line-grip"}
          role="slider"
          tabIndex={0}
          aria-orientation="vertical"
          aria-label={`${rule.name || "Line"}: drag it, or move it with the arrow keys; Enter keeps it`}
          aria-valuenow={value}
          aria-valuetext={formatNumber(value)}
          aria-valuemin={panel.value.domain[0]}
          aria-valuemax={panel.value.domain[1]}
          style={{ left: panel.box.left, width: panel.box.right - panel.box.left, top: y - 5 }}
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onMouseUp={(event) => event.stopPropagation()}
          onKeyDown={onKeyDown}
          onBlur={() => held && !rough.current && keep(entry, held.value)}
        >
          <i>{held?.entry === entry ? formatNumber(value) : ""}</i>
        </div>,
      ];
    }),
  );
}

/** A step of a few pixels, rounded to 1, 2 or 5 times a power of ten. */
function niceStep(panel: Panel): number {
  const [low, high] = panel.value.domain;
  const rough = Math.abs(high - low) / 400 || 1;
  const power = 10 ** Math.floor(Math.log10(rough));
  return ([1, 2, 5].find((value) => value * power >= rough) ?? 10) * power;
}
