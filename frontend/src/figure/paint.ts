/** Painting nodes on a canvas. */
import type { Node } from "./nodes";

type Definitions = Map<string, Node>;

/** Paint nodes over what a canvas holds. ratio: pixels of the canvas for one of the nodes. */
export function paint(context: CanvasRenderingContext2D, nodes: Node[], font: string, ratio: number): void {
  const defined: Definitions = new Map();
  for (const node of nodes) if (node.attributes.id) defined.set(String(node.attributes.id), node);
  const patterns = new Map<string, CanvasPattern | null>();
  const brush = (name: string): string | CanvasPattern => {
    const id = referred(name);
    if (id === undefined) return name;
    if (!patterns.has(id)) patterns.set(id, patternOf(context, defined.get(id), font, ratio));
    return patterns.get(id) ?? "transparent";
  };
  context.save();
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  for (const child of nodes) paintNode(context, child, font, defined, brush);
  context.restore();
}

function referred(name: string): string | undefined {
  return name.startsWith("url(#") ? name.slice(5, -1) : undefined;
}

function paintNode(
  context: CanvasRenderingContext2D,
  { tag, attributes, children, text }: Node,
  font: string,
  defined: Definitions,
  brush: (name: string) => string | CanvasPattern,
): void {
  if (tag === "clipPath" || tag === "pattern") return;
  const number = (name: string, usual = 0) => Number(attributes[name] ?? usual);
  if (tag === "g") {
    context.save();
    const clip = defined.get(referred(String(attributes["clip-path"] ?? "")) ?? "");
    const room = clip?.children[0];
    if (room) context.clip(pathOf(room));
    for (const node of children) paintNode(context, node, font, defined, brush);
    context.restore();
    return;
  }
  const fill = String(attributes.fill ?? "#000");
  const stroke = String(attributes.stroke ?? "none");
  context.lineWidth = number("stroke-width", 1);
  context.lineJoin = (attributes["stroke-linejoin"] ?? "miter") as CanvasLineJoin;
  context.lineCap = (attributes["stroke-linecap"] ?? "butt") as CanvasLineCap;
  context.setLineDash(
    String(attributes["stroke-dasharray"] ?? "")
      .split(/[ ,]+/)
      .filter(Boolean)
      .map(Number),
  );
  const outlined = () => {
    context.globalAlpha = number("stroke-opacity", 1);
    context.strokeStyle = brush(stroke);
  };
  const filled = () => {
    context.globalAlpha = number("fill-opacity", 1);
    context.fillStyle = brush(fill);
  };
  if (tag === "text") {
    context.font = `${attributes["font-weight"] ?? 400} ${number("font-size", 12)}px ${font}`;
    context.textAlign =
      ({ middle: "center", end: "right" } as const)[String(attributes["text-anchor"])] ?? "left";
    context.textBaseline = "alphabetic";
    context.lineJoin = "round";
    if (stroke !== "none") {
      outlined();
      context.strokeText(text ?? "", number("x"), number("y"));
    }
    filled();
    context.fillText(text ?? "", number("x"), number("y"));
    return;
  }
  const path = pathOf({ tag, attributes, children });
  if (fill !== "none" && tag !== "line") {
    filled();
    context.fill(path);
  }
  if (stroke !== "none") {
    outlined();
    context.stroke(path);
  }
}

function pathOf({ tag, attributes }: Node): Path2D {
  const number = (name: string) => Number(attributes[name] ?? 0);
  if (tag === "path") return new Path2D(String(attributes.d ?? ""));
  const path = new Path2D();
  if (tag === "rect") path.rect(number("x"), number("y"), number("width"), number("height"));
  else if (tag === "circle") path.arc(number("cx"), number("cy"), number("r"), 0, 2 * Math.PI);
  else if (tag === "line") {
    path.moveTo(number("x1"), number("y1"));
    path.lineTo(number("x2"), number("y2"));
  }
  return path;
}

/** A pattern as its definition has it, turned by 45 degrees like every hatching. */
function patternOf(
  context: CanvasRenderingContext2D,
  definition: Node | undefined,
  font: string,
  ratio: number,
): CanvasPattern | null {
  if (!definition) return null;
  const size = Number(definition.attributes.width);
  const tile = document.createElement("canvas");
  tile.width = tile.height = Math.round(size * ratio);
  const inside = tile.getContext("2d");
  if (!inside) return null;
  paint(inside, definition.children, font, tile.width / size);
  const pattern = context.createPattern(tile, "repeat");
  pattern?.setTransform(new DOMMatrix().rotate(45).scale(size / tile.width));
  return pattern;
}
