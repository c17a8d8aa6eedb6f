export type Dot = readonly [x: number, y: number] | undefined;

/** The data of an SVG path through dots, in pixels; the pen is up where there is none. */
export function pathThrough(dots: Iterable<Dot>): string {
  let path = "";
  let pen = false;
  for (const dot of dots) {
    if (dot) path += `${pen ? "L" : "M"}${dot[0].toFixed(1)},${dot[1].toFixed(1)}`;
    pen = dot !== undefined;
  }
  return path;
}
