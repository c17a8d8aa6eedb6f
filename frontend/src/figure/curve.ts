/** A curve: a strong stroke where it rests on what was measured, dashed where it does not. */
import { besidePlace, colourOf, type Frame, type Panel } from "./frame";
import { dashOf, stroke, type Drawn, type Stroke } from "./ink";
import { curvePoints, type Rest } from "./strokes";
import { shapesOf, type Curve, type Figure } from "./types";

export function drawCurve(curve: Curve, panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const color = colourOf(curve, figure, frame.palette);
  const strength = weightOf(curve, figure);
  if (curve.rests !== "measured") {
    const whole = curvePoints({ ...curve, pale: [], faded: [] }, "whole");
    return stroke(whole, panel, { color, width: curve.look?.weight ?? 1.8, type: [5, 3] }, 6);
  }
  const width = curve.look?.weight ?? (curve.strong ? strength.width : curve.equation ? 1.8 : 1.4);
  const part = (rest: Rest, more: Partial<Stroke>) =>
    stroke(curvePoints(curve, rest), panel, { color, width, ...strength.dash, ...more }, 5);
  return [
    ...part("whole", {}),
    ...part("pale", { opacity: curve.beside ? 0.65 : 0.4 }),
    ...part("faded", { width: Math.min(width, 2.2), type: [3, 3], opacity: 0.55 }),
  ];
}

/** Strokes for the several strong curves of a series: told apart by weight and dash, not by colour alone. */
const WEIGHTS: { width: number; dash: { type?: number[] } }[] = [
  { width: 2.6, dash: {} },
  { width: 1.5, dash: {} },
  { width: 2.6, dash: { type: [12, 3] } },
  { width: 1.5, dash: { type: [12, 3] } },
  { width: 2.6, dash: { type: [14, 3, 2, 3] } },
  { width: 1.5, dash: { type: [14, 3, 2, 3] } },
];

/** Dashes of curves laid beside their series, the nearest first. */
const BESIDE: (number[] | undefined)[] = [undefined, [5, 2], [2, 2], [9, 3, 2, 3]];

/** Dashes of the trend lines of a series; short even dashes would mean that they are estimated. */
const TRENDS: (number[] | undefined)[] = [undefined, [10, 3, 2, 3], [2, 3], [16, 4]];

function weightOf(curve: Curve, figure: Figure): (typeof WEIGHTS)[number] {
  if (curve.look) return { width: curve.look.weight, dash: dashOf(curve.look) };
  if (curve.beside) {
    const type = BESIDE[besidePlace(curve, figure) % BESIDE.length];
    return { width: 1.4, dash: type ? { type } : {} };
  }
  if (curve.equation) {
    const lines = shapesOf(figure, "curve", curve.series).filter((one) => one.equation && !one.part_of);
    const place = lines.findIndex((one) => one.id === (curve.part_of || curve.id));
    const type = TRENDS[Math.max(0, place) % TRENDS.length];
    return { width: 1.8, dash: type ? { type } : {} };
  }
  const mine = shapesOf(figure, "curve", curve.series).filter(
    (one) => one.rests === "measured" && one.strong,
  );
  return (
    WEIGHTS[
      Math.max(
        0,
        mine.findIndex((one) => one.id === curve.id),
      ) % WEIGHTS.length
    ] ?? { width: 2.6, dash: {} }
  );
}
