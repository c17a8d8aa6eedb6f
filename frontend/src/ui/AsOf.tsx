import type { Slot } from "../api/client";
import { formatDate } from "./format";
import { Word } from "./Word";

const SLOT: Slot = {
  name: "as_of",
  type: "date",
  title: "the day the study believes it is",
  minimum: null,
  maximum: null,
  step: null,
  unit: null,
  options: null,
  empty: null,
  choices: [],
  usual: null,
  ordered: false,
  clauses: [],
};

interface Props {
  day: string;
  onPreview: (day: string | undefined) => void;
  onCommit: (day: string) => void;
}

/** The as-of date, a word like any other. */
export function AsOf({ day, onPreview, onCommit }: Props) {
  return (
    <span className="asof">
      as of{" "}
      <Word
        path="as_of"
        slot={SLOT}
        text={formatDate(day)}
        value={day}
        choices={[]}
        disabled={false}
        onChange={(_, value) => onPreview(String(value))}
        onRevert={() => onPreview(undefined)}
        onCommit={(_, value) => (value === day ? onPreview(undefined) : onCommit(String(value)))}
      />
    </span>
  );
}
