import { DropZone } from "../intake/DropZone";
import { useBringIn } from "../intake/useBringIn";

const STEPS: [string, string][] = [
  ["Intake", "Zembra says what it understood of the rows, and asks where they can be read in two ways."],
  [
    "Bench",
    "Blanks, gaps, outliers and level shifts are found; you decide, and the line follows every word.",
  ],
  ["Projection", "Methods are tried on periods held back, so that you see what each would have been worth."],
  ["Picture", "Dress the chart, and hand over the picture, the numbers and an account of what was done."],
];

/** An empty home: the ways in, and what a first hour looks like. */
export function FirstHour() {
  const { busy, reading, error, onFile } = useBringIn();
  return (
    <div className="first-hour">
      <div>
        <h2>No studies yet</h2>
        <DropZone busy={busy} reading={reading} error={error} onFile={onFile} />
      </div>
      <section aria-label="What a first hour looks like">
        <h3>What a first hour looks like</h3>
        <ol>
          {STEPS.map(([name, does]) => (
            <li key={name}>
              <b>{name}</b>
              {does}
            </li>
          ))}
        </ol>
        <p className="muted">
          Nothing is ever written into the file: every edit is an entry that can be switched off. Next month,
          bring the new rows in: what changed and how the projection did is shown first.
        </p>
      </section>
    </div>
  );
}
