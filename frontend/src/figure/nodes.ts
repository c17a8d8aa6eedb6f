/** SVG as plain data, and as text. */

export interface Node {
  tag: string;
  attributes: Record<string, string | number | undefined>;
  children: Node[];
  text?: string;
}

type Attributes = Node["attributes"];

export function node(tag: string, attributes: Attributes = {}, children: Node[] = []): Node {
  return { tag, attributes, children };
}

export function textNode(text: string, attributes: Attributes): Node {
  return { tag: "text", attributes, children: [], text };
}

const MISSING = "data-missing";

/** Says how many texts that were asked for found no room; nothing where all did. */
export function leftOut(count: number): Node[] {
  return count ? [node("g", { [MISSING]: count })] : [];
}

/** How many texts found no room in all that is drawn. */
export function missingIn(drawn: Node[]): number {
  return drawn.reduce(
    (sum, child) => sum + Number(child.attributes[MISSING] ?? 0) + missingIn(child.children),
    0,
  );
}

/** A number as it stands in a file: the same on every machine. */
export function tidy(value: number): string {
  return String(Math.round(value * 100) / 100);
}

export function svgText(node: Node): string {
  const attributes = Object.entries(node.attributes)
    .filter(([, value]) => value !== undefined)
    .map(([name, value]) => ` ${name}="${escaped(typeof value === "number" ? tidy(value) : String(value))}"`)
    .join("");
  const inside = (node.text === undefined ? "" : escaped(node.text)) + node.children.map(svgText).join("");
  return inside ? `<${node.tag}${attributes}>${inside}</${node.tag}>` : `<${node.tag}${attributes}/>`;
}

const ENTITIES: Record<string, string> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };

/** Without what no XML may hold. */
function escaped(text: string): string {
  return text
    .replaceAll(/[^\t\n\r\u{20}-\u{d7ff}\u{e000}-\u{fffd}\u{10000}-\u{10ffff}]/gu, "\u{fffd}")
    .replaceAll(/[&<>"]/g, (letter) => ENTITIES[letter] ?? letter);
}
