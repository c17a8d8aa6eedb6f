/** Widths of texts from one table, so that a browser and a server place them alike. */
import { WIDTHS } from "./widths.gen";

type Face = "sans400" | "sans600" | "serif600";

/** Of the size: where the table knows no width. */
const UNKNOWN = 0.56;
const WIDE = 1.0; // ideographs, emoji
const FIRST_WIDE = 0x2e80;

const tables = new Map<Face, Map<number, number>>();

function tableOf(face: Face): Map<number, number> {
  const known = tables.get(face);
  if (known) return known;
  const table = new Map<number, number>();
  for (const [start, run] of Object.entries(WIDTHS[face] ?? {}))
    run.split(" ").forEach((width, n) => table.set(Number(start) + n, Number(width) / 1000));
  tables.set(face, table);
  return table;
}

export function widthOf(text: string, size: number, face: Face = "sans400"): number {
  const table = tableOf(face);
  let width = 0;
  for (const letter of text) {
    const code = letter.codePointAt(0) ?? 0;
    width += table.get(code) ?? (code >= FIRST_WIDE ? WIDE : UNKNOWN);
  }
  return width * size;
}

/** A text cut to a width, with dots where something is left out. */
export function fitted(text: string, size: number, most: number, face: Face = "sans400"): string {
  if (widthOf(text, size, face) <= most) return text;
  const letters = [...text];
  while (letters.length && widthOf(`${letters.join("")}…`, size, face) > most) letters.pop();
  return `${letters.join("").trimEnd()}…`;
}

/** A text in lines of at most a width; what is more than so many lines is cut. */
export function wrapped(
  text: string,
  size: number,
  most: number,
  lines: number,
  face: Face = "sans400",
): string[] {
  const found: string[] = [];
  let line = "";
  for (const word of text.split(/\s+/).filter(Boolean)) {
    const longer = line ? `${line} ${word}` : word;
    if (line && widthOf(longer, size, face) > most) {
      found.push(line);
      line = word;
    } else line = longer;
  }
  if (line) found.push(line);
  if (found.length > lines) {
    const rest = found.slice(lines - 1).join(" ");
    return [...found.slice(0, lines - 1), fitted(rest, size, most, face)];
  }
  return found.map((title) => fitted(title, size, most, face));
}
