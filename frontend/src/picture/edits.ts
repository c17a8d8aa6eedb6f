/** Edits of pictures as what they change. Pure. */
import type { Schemas } from "../api/client";
import type { Change } from "../bench/edits";

export type Picture = Schemas["Picture"];
export type LineDress = Picture["lines"][number];
type Words = Record<string, unknown>;

/** One picture changed; the study's first one is made of what is shown where there is none yet. */
export function onPicture(place: number, shown: Picture, change: (picture: Picture) => Picture): Change {
  return (kept) => {
    const pictures = kept.settings.pictures?.length ? (kept.settings.pictures as Picture[]) : [shown];
    const mine = pictures[place];
    if (!mine) return undefined;
    return { ...kept, settings: { ...kept.settings, pictures: pictures.with(place, change(mine)) } };
  };
}

export function onPictures(shown: Picture, change: (pictures: Picture[]) => Picture[]): Change {
  return (kept) => {
    const pictures = kept.settings.pictures?.length ? (kept.settings.pictures as Picture[]) : [shown];
    return { ...kept, settings: { ...kept.settings, pictures: change(pictures) } };
  };
}

/** Other words of a sentence of a picture. every: its lines as they are dressed now, in drawing order. */
export function withWords(
  picture: Picture,
  part: string,
  key: string,
  words: Words,
  every: LineDress[],
): Picture {
  if (part === "line") {
    const said = picture.lines.some((line) => line.id === key)
      ? picture.lines.map((line) => (line.id === key ? ({ ...line, ...words } as LineDress) : line))
      : inOrder([...picture.lines, { ...(words as unknown as LineDress), id: key }], every);
    return { ...picture, lines: said };
  }
  if (part === "note")
    return {
      ...picture,
      free: picture.free.map((note, n) =>
        String(n) === key ? ({ ...note, ...words } as typeof note) : note,
      ),
    };
  return { ...picture, [part]: { ...(picture[part as "page"] as Words), ...words } } as Picture;
}

/** Dresses in the order in which all lines are drawn. */
function inOrder(lines: LineDress[], every: LineDress[]): LineDress[] {
  const place = new Map(every.map((dress, n) => [dress.id, n]));
  return [...lines].sort((a, b) => (place.get(a.id) ?? 0) - (place.get(b.id) ?? 0));
}

/** A line at another place of the drawing order: then the place of every line is said. */
export function moved(picture: Picture, every: LineDress[], from: number, to: number): Picture {
  const line = every[from];
  if (!line || to < 0 || to >= every.length) return picture;
  return { ...picture, lines: every.toSpliced(from, 1).toSpliced(to, 0, line) };
}

/** A name that no other picture has. */
export function freeName(wanted: string, pictures: { name: string }[]): string {
  const taken = new Set(pictures.map((picture) => picture.name));
  if (!taken.has(wanted)) return wanted;
  let n = 2;
  while (taken.has(`${wanted} ${n}`)) n++;
  return `${wanted} ${n}`;
}
