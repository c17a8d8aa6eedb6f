/** A curve: a strong stroke where it rests on what was measured, dashed where it does not. */
import { besidePlace, colourOf, type Frame, type Panel } from "./frame";
import { at, dashOf, planeOf, type Drawn } from "./ink";
import { curveStrokes } from "./lineink";
import { shapesOf, type Curve, type Figure } from "./types";

export function drawCurve(curve: Curve, panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const ink = colourOf(curve, figure, frame.palette);
  const measured = curve.rests === "measured";
  const strength = weightOf(curve, figure);
  const usual = !measured || curve.equation ? 1.8 : curve.strong ? strength.width : 1.4;
  const width = curve.look?.weight ?? (curve.strong && measured ? strength.width : usual);
  return at(measured ? 5 : 6, curveStrokes(curve, planeOf(panel), { ink, width, dash: strength.dash }));
}

/** Strokes for the several strong curves of a series: told apart by weight and dash, not by colour alone. */
const WEIGHTS: { width: number; dash: string | undefined }[] = [
  { width: 2.6, dash: undefined },
  { width: 1.5, dash: undefined },
  { width: 2.6, dash: "12 3" },
  { width: 1.5, dash: "12 3" },
  { width: 2.6, dash: "14 3 2 3" },
  { width: 1.5, dash: "14 3 2 3" },
];

/** Dashes of curves laid beside their series, the nearest first. */
const BESIDE: (string | undefined)[] = [undefined, "5 2", "2 2", "9 3 2 3"];

/** Dashes of the trend lines of a series; short even dashes would mean that they are estimated. */
const TRENDS: (string | undefined)[] = [undefined, "10 3 2 3", "2 3", "16 4"];

function weightOf(curve: Curve, figure: Figure): (typeof WEIGHTS)[number] {
  if (curve.look) return { width: curve.look.weight, dash: dashOf(curve.look) };
  if (curve.beside) {
    return { width: 1.4, dash: BESIDE[besidePlace(curve, figure) % BESIDE.length] };
  }
  if (curve.equation) {
    const lines = shapesOf(figure, "curve", curve.series).filter((shape) => shape.equation && !shape.part_of);
    const place = lines.findIndex((line) => line.id === (curve.part_of || curve.id));
    return { width: 1.8, dash: TRENDS[Math.max(0, place) % TRENDS.length] };
  }
  const mine = shapesOf(figure, "curve", curve.series).filter(
    (other) => other.rests === "measured" && other.strong,
  );
  return (
    WEIGHTS[
      Math.max(
        0,
        mine.findIndex((drawn) => drawn.id === curve.id),
      ) % WEIGHTS.length
    ] ?? { width: 2.6, dash: undefined }
  );
}
