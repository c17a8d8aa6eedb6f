import { Button, Checkbox, Input, Popover } from "antd";
import type { Where } from "./asked";
import type { Column } from "./columns";

interface Props {
  known: Column[];
  shown: string[];
  onShown: (names: string[]) => void;
  where: Where[];
  onWhere: (where: Where[]) => void;
}

/** Which columns are shown, in which order, and what their cells must say. */
export function ColumnChoice({ known, shown, onShown, where, onWhere }: Props) {
  const chosen = shown.flatMap((name) => known.find((column) => column.name === name) ?? []);
  const others = known.filter((column) => !shown.includes(column.name));
  const move = (name: string, by: number) => {
    const at = shown.indexOf(name);
    const next = shown.filter((other) => other !== name);
    next.splice(Math.max(0, at + by), 0, name);
    onShown(next);
  };
  const filter = (column: string, change: Partial<Where>) => {
    const next = { ...where.find((each) => each.column === column), ...change, column };
    const says = next.least !== undefined || next.most !== undefined || next.contains;
    onWhere([...where.filter((each) => each.column !== column), ...(says ? [next] : [])]);
  };
  const row = (column: Column, at?: number) => (
    <div key={column.name} className="column-choice" data-column={column.name}>
      <Checkbox
        checked={at !== undefined}
        onChange={({ target }) =>
          onShown(target.checked ? [...shown, column.name] : shown.filter((name) => name !== column.name))
        }
      >
        <span title={column.tip}>{column.title}</span>
      </Checkbox>
      <span>
        {at !== undefined && (
          <>
            <button
              type="button"
              className="quiet"
              aria-label={`${column.title} further left`}
              disabled={at === 0}
              onClick={() => move(column.name, -1)}
            >
              ↑
            </button>
            <button
              type="button"
              className="quiet"
              aria-label={`${column.title} further right`}
              disabled={at === shown.length - 1}
              onClick={() => move(column.name, 1)}
            >
              ↓
            </button>
          </>
        )}
      </span>
      <Filter
        key={JSON.stringify(where.find((each) => each.column === column.name) ?? null)}
        column={column}
        now={where.find((each) => each.column === column.name)}
        onFilter={(change) => filter(column.name, change)}
      />
    </div>
  );
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <div className="column-choices" role="group" aria-label="Columns">
          <p className="muted small">Which are shown, in this order, and what their cells must say.</p>
          {chosen.map((column, at) => row(column, at))}
          {others.map((column) => row(column))}
        </div>
      }
    >
      <Button size="small">Columns</Button>
    </Popover>
  );
}

interface FilterProps {
  column: Column;
  now: Where | undefined;
  onFilter: (change: Partial<Where>) => void;
}

/** What the cells of a column must say: kept when the field is left, or by Enter. */
function Filter({ column, now, onFilter }: FilterProps) {
  const read = (text: string): number | string | undefined => {
    const trimmed = text.trim();
    if (!trimmed) return undefined;
    if (column.kind === "date") return trimmed;
    const amount = Number(trimmed.replace(",", "."));
    return Number.isFinite(amount) ? amount : undefined;
  };
  const field = (label: string, value: number | string | undefined, keep: (text: string) => void) => (
    <Input
      size="small"
      type={column.kind === "date" ? "date" : "text"}
      inputMode={column.kind === "number" ? "decimal" : undefined}
      aria-label={`${column.title}, ${label}`}
      placeholder={label}
      defaultValue={value}
      onBlur={({ target }) => keep(target.value)}
      onPressEnter={({ currentTarget }) => keep(currentTarget.value)}
    />
  );
  if (column.kind === "text")
    return (
      <span className="filter">
        {field("contains", now?.contains, (contains) => onFilter({ contains: contains.trim() }))}
      </span>
    );
  return (
    <span className="filter">
      {field("from", now?.least, (text) => onFilter({ least: read(text) }))}
      {field("to", now?.most, (text) => onFilter({ most: read(text) }))}
    </span>
  );
}
