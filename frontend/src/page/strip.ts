/** All of the time there is, with the shown window to drag, widen and narrow. */
import { colourOf } from "../picture/draw/colour";
import { movedWindow, OVERVIEW_HEIGHT, overviewPaths, type Grip } from "../figure/overview";
import type { Figure } from "../figure/types";
import type { Stretch } from "./stretch";
import { periodIn } from "./words";

const WIDE = 1000;
const HANDLE = 8;
const NAMES: Record<Grip, string> = {
  body: "Shown window",
  from: "Start of the shown window",
  to: "End of the shown window",
};

export function drawStrip(
  svg: SVGSVGElement,
  figure: Figure,
  shown: Stretch,
  full: Stretch,
  onShown: (wanted: Stretch) => void,
): void {
  const x = (at: number) => ((at - full.start) / (full.end - full.start)) * WIDE;
  const grips: [Grip, number, number][] = [
    ["body", x(shown.start), Math.max(2, x(shown.end) - x(shown.start))],
    ["from", x(shown.start) - HANDLE / 2, HANDLE],
    ["to", x(shown.end) - HANDLE / 2, HANDLE],
  ];
  if (!svg.childElementCount) begin(svg, figure, full);
  for (const [grip, left, width] of grips) {
    const rect = svg.querySelector<SVGRectElement>(`[data-grip="${grip}"]`);
    if (!rect) continue;
    const at = grip === "to" ? shown.end : shown.start;
    for (const [name, value] of Object.entries({
      x: left,
      width,
      "aria-valuenow": at,
      "aria-valuetext": figure.page ? periodIn(figure.page, at, figure.grain) : String(at),
    }))
      rect.setAttribute(name, String(value));
    const move = (by: number) => {
      const all: [number, number] = [full.start, full.end];
      const [start, end] = movedWindow(
        grip,
        by,
        [shown.start, shown.end],
        all,
        (full.end - full.start) / 100,
      );
      onShown({ start, end });
    };
    rect.onpointerdown = (event) => {
      rect.setPointerCapture(event.pointerId);
      const [start, each] = [event.clientX, (full.end - full.start) / svg.getBoundingClientRect().width];
      rect.onpointermove = (to) => to.buttons && move((to.clientX - start) * each);
    };
    rect.onkeydown = (event) => {
      const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (!way) return;
      event.preventDefault();
      move(way * (full.end - full.start) * (event.shiftKey ? 0.1 : 0.01));
    };
  }
}

function begin(svg: SVGSVGElement, figure: Figure, full: Stretch): void {
  const { page } = figure;
  const paths = overviewPaths(figure, full.start, full.end, WIDE).map(
    ({ of, path }) =>
      `<path d="${path}" fill="none" stroke="${page && of.look ? colourOf(of.look.colour, page) : "currentColor"}" vector-effect="non-scaling-stroke"/>`,
  );
  const grips = (["body", "from", "to"] as const).map(
    (grip) =>
      `<rect data-grip="${grip}" height="${OVERVIEW_HEIGHT}" tabindex="0" role="slider" aria-label="${NAMES[grip]}" ` +
      `aria-valuemin="${full.start}" aria-valuemax="${full.end}"/>`,
  );
  svg.setAttribute("viewBox", `0 0 ${WIDE} ${OVERVIEW_HEIGHT}`);
  svg.innerHTML = [...paths, ...grips].join("");
}
