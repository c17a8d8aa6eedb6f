/** Colours of a picture, and whether they can be told apart. */
import { dark, inkOf, light, PALE, rgb, type Palette, type Rgb } from "../../figure/palette";
import type { Figure } from "../../figure/types";

type Page = NonNullable<Figure["page"]>;

export function paletteOf(page: Page): Palette {
  return page.dark ? dark : light;
}

/** What the sheet is drawn on; a clear one is taken to lie on white or on dark. */
export function groundOf(page: Page): string {
  const palette = paletteOf(page);
  return page.ground === "paper" ? palette.paper : palette.card;
}

/** A colour by its name, or as it is written. */
export function colourOf(name: string, page: Page): string {
  return inkOf(name, paletteOf(page), groundOf(page));
}

function linear(part: number): number {
  const share = part / 255;
  return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
}

function luminance(colour: string): number {
  const [r, g, b] = rgb(colour).map(linear) as Rgb;
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

/** Contrast ratio, as WCAG 2 has it: 1 to 21. */
function contrast(colour: string, other: string): number {
  const [a, b] = [luminance(colour), luminance(other)];
  return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
}

/** How far two colours are apart to an eye that sees all, or no red or green: CIE76 in Lab, the least of the three. */
export function apart(colour: string, other: string): number {
  return Math.min(...SEEN.map((eye) => distance(lab(eye(rgb(colour))), lab(eye(rgb(other))))));
}

type Eye = (colour: Rgb) => Rgb;

/** Viénot, Brettel and Mollon (1999): what is left of a colour without one kind of cones, on linear parts. */
const SEEN: Eye[] = [
  (colour) => colour.map(linear) as Rgb,
  reduced([0.11238, 0.88762, 0, 0.11238, 0.88762, 0, 0.00401, -0.00401, 1]),
  reduced([0.29275, 0.70725, 0, 0.29275, 0.70725, 0, -0.02234, 0.02234, 1]),
];

function reduced(m: number[]): Eye {
  return (colour) => {
    const [r, g, b] = colour.map(linear) as Rgb;
    const row = (n: number) => (m[n] ?? 0) * r + (m[n + 1] ?? 0) * g + (m[n + 2] ?? 0) * b;
    return [row(0), row(3), row(6)];
  };
}

function lab([r, g, b]: Rgb): Rgb {
  const x = (0.4124 * r + 0.3576 * g + 0.1805 * b) / 0.95047;
  const y = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  const z = (0.0193 * r + 0.1192 * g + 0.9505 * b) / 1.08883;
  const f = (t: number) => (t > 0.008856 ? Math.cbrt(t) : 7.787 * t + 16 / 116);
  return [116 * f(y) - 16, 500 * (f(x) - f(y)), 200 * (f(y) - f(z))];
}

function distance(a: Rgb, b: Rgb): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}

const FAINT = 3; // contrast below which a line is hard to see
const ALIKE = 12; // distance below which two lines are hard to tell apart

/** What a reader may not see: lines too faint on their ground, and lines of the same stroke too much alike. */
export function warnings(figure: Figure): string[] {
  const { page } = figure;
  if (!page) return [];
  const ground = groundOf(page);
  const lines = [...figure.series, ...figure.shapes]
    .flatMap((series) => (series.look ? [series.look] : []))
    .filter((look) => ["series", "curve", "projection", "rule", "bars"].includes(look.role))
    .map((look) => ({ ...look, ink: colourOf(look.colour, page) }));
  const found = lines
    .filter((line) => !line.colour.startsWith(PALE) && contrast(line.ink, ground) < FAINT)
    .map(
      (line) =>
        `${line.name} is faint on this ground: contrast ${contrast(line.ink, ground).toFixed(1)} to 1.`,
    );
  // lines held against stand level, and say what they are; what has no name is part of another line
  const named = lines.filter((line) => line.role !== "rule" && line.named !== "not");
  named.forEach((look, n) => {
    for (const other of named.slice(n + 1)) {
      const same =
        look.dash === other.dash && Math.abs(look.weight - other.weight) < 1 && look.role === other.role;
      if (same && apart(look.ink, other.ink) < ALIKE)
        found.push(`${look.name} and ${other.name} can hardly be told apart.`);
    }
  });
  return found.slice(0, 6);
}
