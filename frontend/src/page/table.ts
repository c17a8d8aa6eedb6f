/** The numbers of the shown stretch as a table, so many rows at a time. */
import { readingsAt, type Reading } from "../figure/reading";
import { shapesOf, type Figure } from "../figure/types";
import { plural } from "../ui/format";
import { element, limitsIn, numberIn, periodIn } from "./words";

const ROWS = 200;

/** inside: the periods of the stretch that is shown. */
export function drawTable(box: HTMLElement, figure: Figure, inside: number[]): void {
  const { page } = figure;
  if (!page) return;
  const curves = shapesOf(figure, "curve").filter((curve) => curve.look);
  const lines = [...figure.series, ...curves].map((line) => ({
    key: keyOf(line),
    name: line.look?.name || line.name,
  }));
  const head = element("thead", [
    element("tr", [
      element("th", ["period"], { scope: "col" }),
      ...lines.map(({ name }) => element("th", [name], { scope: "col" })),
    ]),
  ]);
  const body = element("tbody");
  const more = element("button", [], { type: "button" });
  const add = (from: number) => {
    for (const period of inside.slice(from, from + ROWS)) {
      const readings = new Map(readingsAt(figure, period).map((each) => [keyOf(each.of), each]));
      const cells = lines.map(({ key }) => {
        const reading = readings.get(key);
        const said = reading?.remarks[0];
        const bounds = reading ? limitsIn(page, reading) : [];
        const value = reading && reading.value !== null ? numberIn(page, reading.value) : "";
        return element("td", [
          value,
          ...[said, ...bounds].flatMap((text) => (text ? [element("small", [text])] : [])),
        ]);
      });
      body.append(
        element("tr", [element("th", [periodIn(page, period, figure.grain)], { scope: "row" }), ...cells]),
      );
    }
    const left = inside.length - body.childElementCount;
    more.hidden = left <= 0;
    more.textContent = `${plural(Math.min(ROWS, left), "more row")} of ${inside.length}`;
  };
  more.onclick = () => add(body.childElementCount);
  add(0);
  box.replaceChildren(element("table", [head, body]), more);
}

function keyOf(line: Reading["of"]): string {
  return "id" in line ? line.id : line.name;
}
