/** Where lines run, so that texts can keep off them. */

export type Run = readonly (readonly [number, number] | undefined)[];

/** Whether a box of pixels lies on a line. */
export type Crossing = (left: number, width: number, top: number, height: number) => boolean;

/** runs: lines as pixels, undefined where one stops. Their reach is kept by column of pixels, each line for itself. */
export function crossing(runs: Run[]): Crossing {
  const reaches = runs.map(reachOf);
  return (left, width, top, height) =>
    reaches.some((reach) => {
      for (let x = Math.floor(left); x <= left + width; x++) {
        const here = reach.get(x);
        if (here && here[0] < top + height && here[1] > top) return true;
      }
      return false;
    });
}

function reachOf(run: Run): Map<number, [number, number]> {
  const reach = new Map<number, [number, number]>();
  const take = (x: number, y: number) => {
    const here = reach.get(x);
    if (!here) reach.set(x, [y, y]);
    else reach.set(x, [Math.min(here[0], y), Math.max(here[1], y)]);
  };
  run.forEach((end, n) => {
    if (!end) return;
    const begin = run[n - 1] ?? end;
    const [from, to] = [Math.floor(begin[0]), Math.floor(end[0])];
    take(from, begin[1]);
    for (let x = from + 1; x < to; x++)
      take(x, begin[1] + ((end[1] - begin[1]) * (x - begin[0])) / (end[0] - begin[0]));
    take(to, end[1]);
  });
  return reach;
}
