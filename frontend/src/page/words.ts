/** Elements with texts, never with markup, and numbers in the words of the page's reader. */
import type { Reading } from "../figure/reading";
import { formatNumber, formatPeriod, withMarks } from "../ui/format";
import type { Page } from "../picture/draw/sheet";

export function element(
  tag: string,
  children: (Node | string)[] = [],
  attributes: Record<string, string> = {},
) {
  const made = document.createElement(tag);
  made.append(...children);
  for (const [name, value] of Object.entries(attributes)) made.setAttribute(name, value);
  return made;
}

export function numberIn(page: Page, value: number | null | undefined): string {
  const text = formatNumber(value);
  return page.tongue ? withMarks(text, page.tongue) : text;
}

/** The limits of a reading, a text each. */
export function limitsIn(page: Page, { limits }: Pick<Reading, "limits">): string[] {
  return limits.map((each) => `${each.name}: ${numberIn(page, each.lower)} to ${numberIn(page, each.upper)}`);
}

/** A period by its start, as the page's reader writes dates. */
export function periodIn(page: Page, at: number, grain: string): string {
  const { tongue } = page;
  if (!tongue) return formatPeriod(at, grain);
  const date = new Date(at);
  const month = date.getUTCMonth();
  const pattern = {
    year: "{y}",
    quarter: tongue.year_quarters[Math.floor(month / 3)],
    month: tongue.year_months[month],
  }[grain];
  const day = (pattern ?? tongue.dates[month] ?? "")
    .replace("{d}", String(date.getUTCDate()))
    .replace("{y}", String(date.getUTCFullYear()));
  const clock = ["year", "quarter", "month", "week", "day"].includes(grain)
    ? ""
    : ` ${date.toISOString().slice(11, 16)}`;
  return day + clock;
}
