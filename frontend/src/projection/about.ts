import type { Schemas } from "../api/client";

/** What is judged: a series by its name, the sum of all that are projected, or each of them at a glance. */
export type About = { series: string } | "together" | "every";

const MANY = 12;

/** As first shown: the first series, or all at a glance where there are many. */
export function aboutFirst(entry: Schemas["EntryView"], lines: string[]): About {
  const named = (entry.params["series"] as string[] | undefined) ?? [];
  return (named.length || lines.length) > MANY ? "every" : { series: "" };
}

/** As the value of a choice; a series may be called anything. */
export function written(about: About): string {
  return typeof about === "string" ? about : `series ${about.series}`;
}

export function read(value: string): About {
  return value === "together" || value === "every" ? value : { series: value.slice("series ".length) };
}
