/** The hatching of what is not measured, defined once for each colour. */
import { node, type Node } from "./nodes";

const HATCH = "hatch-";
const PALE = "pale-";

/** The hatching of a colour, which the sheet defines once. sure: whether it stands for what was tested. */
export function hatchOf(ink: string, sure = true): string {
  return `url(#${HATCH}${sure ? "" : PALE}${ink.slice(1)})`;
}

/** The hatchings that are used in what is drawn. */
export function hatchDefinitions(drawn: Node[]): Node[] {
  const fills = new Set<string>();
  const look = (child: Node) => {
    const { fill } = child.attributes;
    if (typeof fill === "string" && fill.startsWith(`url(#${HATCH}`)) fills.add(fill);
    child.children.forEach(look);
  };
  drawn.forEach(look);
  return [...fills].map((fill) => {
    const id = fill.slice("url(#".length, -1);
    const sure = !id.startsWith(`${HATCH}${PALE}`);
    const ink = `#${id.slice(HATCH.length + (sure ? 0 : PALE.length))}`;
    const size = sure ? 5 : 9;
    return node(
      "pattern",
      { id, width: size, height: size, patternUnits: "userSpaceOnUse", patternTransform: "rotate(45)" },
      [
        node("rect", { width: size, height: size, fill: ink, "fill-opacity": sure ? 0.08 : 0.03 }),
        node("line", {
          x1: 0,
          y1: 0,
          x2: 0,
          y2: size,
          stroke: ink,
          "stroke-width": 1.4,
          "stroke-opacity": sure ? 0.55 : 0.3,
        }),
      ],
    );
  });
}
