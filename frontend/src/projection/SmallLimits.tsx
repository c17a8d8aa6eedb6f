import type { Scale } from "../figure/scale";
import { useLook } from "../app/look";
import { areaPath, type Values } from "../ui/paths";

/** The limits of a projection on a small chart: the outermost hatched, the innermost shaded. edges: from the narrowest on. */
export function SmallLimits({
  t,
  edges,
  time,
  value,
}: {
  t: number[];
  edges: Values[][];
  time: Scale;
  value: Scale;
}) {
  const { palette } = useLook();
  const outer = edges.at(-1);
  const inner = edges.length > 1 ? edges[0] : undefined;
  return (
    <>
      <defs>
        <pattern id="limits" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="5" stroke={palette.iris} strokeWidth="1" opacity="0.55" />
        </pattern>
      </defs>
      {outer && <path d={areaPath(t, outer, time, value)} fill="url(#limits)" opacity={0.55} />}
      {inner && <path d={areaPath(t, inner, time, value)} fill={palette.iris} opacity={0.16} />}
    </>
  );
}
