/** A curve: a strong stroke where it rests on what was measured, dashed where it does not. */
import { colourOf, type Frame } from "./frame";
import { stroke } from "./ink";
import { quietCurve } from "./quiet";
import { curvePoints } from "./strokes";
import { shapesOf, type Curve, type Figure } from "./types";

export function drawCurve(whole: Curve, figure: Figure, frame: Frame, width: number): object[] {
  const around = shapesOf(figure, "area", whole.series).some((area) => area.of === whole.id);
  const curve = around ? quietCurve(whole, frame.from, frame.to, width) : whole;
  const color = colourOf(curve, figure, frame.palette);
  if (curve.rests !== "measured") {
    return [stroke(curvePoints(curve, false), { color, width: 1.8, type: [5, 3] }, 6)];
  }
  const faded = curvePoints(curve, true);
  return [
    stroke(curvePoints(curve, false), { color, width: curve.strong ? 2.6 : 1.6 }, 5),
    ...(faded.length ? [stroke(faded, { color, width: 2.2, type: [3, 3], opacity: 0.55 }, 5)] : []),
  ];
}
