import { Button } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, dataOf, type Schemas } from "../api/client";
import { useLook } from "../app/look";
import { entriesOf, onEntry } from "../bench/edits";
import type { BenchHandle } from "../bench/useBench";
import { linearScale, niceRange, timeScale } from "../figure/scale";
import { endName, EndNames, SmallChart } from "../projection/small";
import { FootTicks, ValueGrid } from "../ui/axes";
import { areaPath, linePath } from "../ui/paths";
import { formatNumber, formatSigned, plural } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";
import type { Asked } from "./asked";

const SHOWN = 240; // newest periods

interface Props {
  id: number;
  of: Asked["of"];
  series: string;
  handle: BenchHandle;
}

const FIRST_READING = 3; // place in the colours of series
const MOST_READINGS = 6;

/** One of all series with what the ledger draws of it, and the way to the bench. */
export function Chosen({ id, of, series, handle }: Props) {
  const { palette } = useLook();
  const navigate = useNavigate();
  const query = useQuery({
    queryKey: ["all series one", id, of, series, handle.kept?.study.revision],
    queryFn: () =>
      dataOf<Schemas["OneSeries"]>(
        api.GET("/api/studies/{study_id}/all-series/series", {
          params: { path: { study_id: id }, query: { series, of } },
        }),
      ),
  });
  const source = entriesOf(handle.kept?.ledger ?? ({} as never)).find((entry) => entry.kind === "source");
  const drawn = (source?.params?.series as string[] | undefined) ?? [];
  const open = async () => {
    if (source && drawn.length > 0 && !drawn.includes(series))
      await handle.commit(
        onEntry(source.id, (record) => ({
          ...record,
          params: { ...record.params, series: [...drawn, series] },
        })),
        `${series} drawn too`,
      );
    await navigate(`/studies/${id}`);
  };
  if (!query.data) return <TroubleNote error={query.error} />;
  const { period, value, beside } = query.data;
  const lines = [...query.data.lines, ...beside];
  const from = Math.max(0, period.length - SHOWN);
  const days = period.slice(from);
  const first = days[0] ?? "";
  const at = (label: string) => Date.parse(/^\d{4}-\d{2}$/.test(label) ? `${label}-01` : label.slice(0, 16));
  const t = days.map(at);
  const now = value.slice(from);
  const curves = lines
    .filter((line) => line.kind !== "held" && line.period.some((label) => label >= first))
    .map((line) => {
      const start = line.period.findIndex((label) => label >= first);
      const part = <T,>(values: T[]) => values.slice(Math.max(0, start));
      return {
        ...line,
        t: part(line.period).map(at),
        value: part(line.value),
        lower: part(line.lower),
        upper: part(line.upper),
      };
    });
  const every = [now, ...curves.flatMap((line) => [line.value, line.lower, line.upper])]
    .flat()
    .filter((amount): amount is number => amount !== null);
  if (!every.length || !t.length || Number.isNaN(t[0]))
    return <p className="muted">{series} has no number.</p>;
  const end = Math.max(...t, ...curves.flatMap((line) => line.t));
  const readings = curves.filter((line) => line.kind !== "projection").map((line) => line.name);
  // iris is for what is projected, ember for what asks for attention: readings have the colours after these
  const inkOf = ({ name, kind }: { name: string; kind: string }) => {
    if (beside.some((other) => other.name === name)) return palette.ember;
    if (kind === "projection") return palette.iris;
    return palette.series[FIRST_READING + (readings.indexOf(name) % MOST_READINGS)] ?? palette.ink;
  };
  return (
    <div className="chosen-series">
      <div className="series-bar">
        <h2>{series}</h2>
        {of === "series" ? (
          <Button size="small" onClick={() => void open()}>
            Open on the bench
          </Button>
        ) : (
          <span className="muted small">{asProjected(query.data)}</span>
        )}
      </div>
      <SmallChart
        title=""
        height={210}
        right={168}
        numbers={every}
        label={`${series} with what the ledger draws`}
        draw={(room) => {
          const scale = linearScale(niceRange(Math.min(...every), Math.max(...every)), [
            room.bottom,
            room.top,
          ]);
          const time = timeScale(t[0] ?? 0, end, [room.left, room.right]);
          return (
            <>
              <ValueGrid scale={scale} room={room} />
              <FootTicks scale={time} room={room} />
              {curves.map((line) => (
                <g key={line.name}>
                  {line.lower.some((amount) => amount !== null) && (
                    <path
                      d={areaPath(line.t, [line.lower, line.upper], time, scale)}
                      fill={inkOf(line)}
                      opacity={0.16}
                    />
                  )}
                  <path
                    d={linePath(line.t, line.value, time, scale)}
                    fill="none"
                    stroke={inkOf(line)}
                    strokeWidth={1.3}
                    strokeDasharray={line.kind === "projection" ? "4 3" : undefined}
                  >
                    <title>{line.name}</title>
                  </path>
                </g>
              ))}
              <path d={linePath(t, now, time, scale)} fill="none" stroke={palette.lagoon} strokeWidth={1.6} />
              <EndNames
                room={room}
                names={[
                  ...endName("what came", now, scale, palette.lagoon),
                  ...curves.flatMap((line) => endName(line.name, line.value, scale, inkOf(line))),
                ]}
              />
            </>
          );
        }}
      />
    </div>
  );
}

/** What is projected of a sum, beside what the projections of its parts come to. */
function asProjected({ lines, beside }: Schemas["OneSeries"]): string {
  const [other] = beside;
  const own = lines.find((line) => line.kind === "projection" && line.name === "projection");
  if (!own) return "";
  if (!other) return "Not enough of its parts are projected to add them up.";
  const at = new Map(other.period.map((label, n) => [label, other.value[n]]));
  let mine = 0;
  let theirs = 0;
  let count = 0;
  own.period.forEach((label, n) => {
    const [sum, parts] = [own.value[n], at.get(label)];
    if (sum === null || sum === undefined || parts === null || parts === undefined) return;
    mine += sum;
    theirs += parts;
    count += 1;
  });
  if (!count) return "";
  const more = mine ? ` (${formatSigned(Number(((100 * (theirs - mine)) / mine).toFixed(1)))} %)` : "";
  return `Over ${plural(count, "period")}: projected ${short(mine)}, the projections of its parts add up to ${short(theirs)}${more}.`;
}

function short(amount: number): string {
  return formatNumber(Number(amount.toPrecision(6)));
}
