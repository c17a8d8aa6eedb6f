import { Checkbox, Popover } from "antd";
import type { Bench } from "../api/client";
import { useLook } from "../app/look";

const MOST_SHOWN = 12;

/** Which series the chart draws. All of them stay in the study. */
export function SeriesPicker({ bench, onChange }: { bench: Bench; onChange: (names: string[]) => void }) {
  const { palette } = useLook();
  const source = bench.ledger.entries?.find((entry) => entry.kind === "source");
  const chosen = (source?.params?.series as string[] | undefined) ?? [];
  const names = chosen.length ? chosen : bench.options.series;
  const shown = bench.figure.lines.filter((line) => line.role === "series").map((line) => line.name);
  if (names.length < 2) return null;
  return (
    <Popover
      trigger="click"
      placement="bottomLeft"
      arrow={false}
      content={
        <div className="boxes-list" role="group" aria-label="Series in the chart">
          {names.map((name, n) => (
            <Checkbox
              key={name}
              checked={shown.includes(name)}
              disabled={shown.length >= MOST_SHOWN && !shown.includes(name)}
              onChange={(event) => {
                const next = names.filter((one) =>
                  one === name ? event.target.checked : shown.includes(one),
                );
                if (next.length) onChange(next);
              }}
            >
              <i className="swatch" style={{ background: palette.series[n % palette.series.length] }} />
              {name}
            </Checkbox>
          ))}
          <small className="muted">A series that is not drawn still counts in the study.</small>
        </div>
      }
    >
      <button type="button" className="picker">
        {shown.length === 1 ? shown[0] : `${shown.length} of ${names.length} series`} ▾
      </button>
    </Popover>
  );
}
