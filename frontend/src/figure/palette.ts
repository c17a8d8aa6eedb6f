/** The colours and faces that everything is drawn with. */

/** Colours by role, for everything that is drawn rather than styled. */
export interface Palette {
  paper: string;
  card: string;
  rule: string;
  ink: string;
  muted: string;
  lagoon: string;
  lagoonPale: string;
  lagoonSoft: string;
  ember: string;
  wheat: string;
  iris: string;
  /** Series colours, twelve that differ in hue or lightness, in a colour-blind-safe order. */
  series: string[];
}

export const light: Palette = {
  paper: "#FAF8F3",
  card: "#FFFFFF",
  rule: "#E6E1D6",
  ink: "#1D2A30",
  muted: "#68757B",
  lagoon: "#0F5C63",
  lagoonPale: "#DCEBEA",
  lagoonSoft: "#9CC4C2",
  ember: "#C8502B",
  wheat: "#E7B75F",
  iris: "#6C5B9E",
  series: [
    "#0F5C63",
    "#C8502B",
    "#6C5B9E",
    "#7B8B2D",
    "#3E8FB0",
    "#B0506F",
    "#8A6A1F",
    "#2F4B7C",
    "#4E8F5B",
    "#7A4A3A",
    "#A37AC4",
    "#5C6468",
  ],
};

export const dark: Palette = {
  paper: "#12191C",
  card: "#1A2327",
  rule: "#2D393E",
  ink: "#E8E6DF",
  muted: "#A3B0B5",
  lagoon: "#63B8B9",
  lagoonPale: "#1D3A3D",
  lagoonSoft: "#3B7477",
  ember: "#EA8561",
  wheat: "#E7B75F",
  iris: "#A99AD6",
  series: [
    "#63B8B9",
    "#EA8561",
    "#A99AD6",
    "#B7C65A",
    "#7CC0DD",
    "#DE8CA6",
    "#D9B25F",
    "#8FA8DE",
    "#86C796",
    "#C69C8A",
    "#CFAEEB",
    "#A9B4B8",
  ],
};

// single quotes: the names stand inside attributes of handed-over pictures
export const SANS = "'Source Sans 3', 'Source Sans Pro', sans-serif";
export const SERIF = "'Source Serif 4', 'Source Serif Pro', serif";

/** The series colours by name, in their order. */
const NAMES = [
  "lagoon",
  "ember",
  "iris",
  "olive",
  "sky",
  "rose",
  "ochre",
  "navy",
  "moss",
  "umber",
  "lilac",
  "slate",
];
export const PALE = "pale ";
const PALER = 0.55; // how far a pale colour is on its way to the ground

/** A colour by its name on a ground, or as it is written. */
export function inkOf(name: string, palette: Palette, ground: string): string {
  if (name.startsWith("#")) return name;
  const plain = name.startsWith(PALE) ? name.slice(PALE.length) : name;
  const roles: Record<string, string> = { ink: palette.ink, muted: palette.muted };
  const full = roles[plain] ?? palette.series[NAMES.indexOf(plain)] ?? palette.lagoon;
  return name === plain ? full : mixed(full, ground, PALER);
}

export type Rgb = [number, number, number];

export function rgb(colour: string): Rgb {
  const value = parseInt(colour.slice(1), 16);
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255];
}

function mixed(colour: string, other: string, share: number): string {
  const [a, b] = [rgb(colour), rgb(other)];
  return `#${a
    .map((part, n) => Math.round(part + ((b[n] ?? 0) - part) * share))
    .map((part) => part.toString(16).padStart(2, "0"))
    .join("")}`;
}
