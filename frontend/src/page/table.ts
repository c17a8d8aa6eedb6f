/** The numbers of the shown stretch as a table, so many rows at a time. */
import { periodsOf, readingsAt } from "../figure/reading";
import type { Figure } from "../figure/types";
import { plural } from "../ui/format";
import type { Stretch } from "./stretch";
import { element, numberIn, periodIn } from "./words";

const ROWS = 200;

export function drawTable(box: HTMLElement, figure: Figure, { start, end }: Stretch): void {
  const { page } = figure;
  if (!page) return;
  const inside = periodsOf(figure).filter((t) => t >= start && t <= end);
  const curves = figure.shapes.filter((shape) => shape.shape === "curve" && shape.look);
  const lines = [...figure.series, ...curves].map((line) => ({
    key: "id" in line ? line.id : line.name,
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
      const readings = new Map(
        readingsAt(figure, period).map((each) => ["id" in each.of ? each.of.id : each.of.name, each]),
      );
      const cells = lines.map(({ key }) => {
        const reading = readings.get(key);
        const said = reading?.remarks[0];
        const bounds = (reading?.limits ?? []).map(
          (each) => `${each.name}: ${numberIn(page, each.lower)} to ${numberIn(page, each.upper)}`,
        );
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
