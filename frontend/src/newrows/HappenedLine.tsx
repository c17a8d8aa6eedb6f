import { useLook } from "../app/look";
import { lowerBound, type Scale } from "../figure/scale";
import { linePath, type Values } from "../ui/paths";

/** A line up to where it is provisional, and from there on. */
export function parted(t: number[], now: Values, unfinished: number | null): [Values, Values] {
  const from = unfinished === null ? t.length : lowerBound(t, unfinished);
  return [
    now.map((amount, n) => (n < from ? amount : null)),
    now.map((amount, n) => (n >= from - 1 ? amount : null)),
  ];
}

/** What happened, dotted where it is not all in yet. */
export function HappenedLine({
  t,
  finished,
  unfinished,
  time,
  value,
}: {
  t: number[];
  finished: Values;
  unfinished: Values;
  time: Scale;
  value: Scale;
}) {
  const { palette } = useLook();
  return (
    <>
      <path d={linePath(t, finished, time, value)} fill="none" stroke={palette.lagoon} strokeWidth={1.9} />
      <path
        d={linePath(t, unfinished, time, value)}
        fill="none"
        stroke={palette.lagoon}
        strokeWidth={1.4}
        strokeDasharray="1 3"
      >
        <title>provisional: not all in yet</title>
      </path>
    </>
  );
}
