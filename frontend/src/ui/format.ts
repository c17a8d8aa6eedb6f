/** Numbers and dates as Zembra writes them: thousands apart, a true minus, ISO-like short dates. */

export const THIN = "\u2009";

/** A number as it is written here, with other marks. */
export function withMarks(text: string, { decimal, group }: { decimal: string; group: string }): string {
  return text.replaceAll(/[.\u2009]/g, (mark) => (mark === THIN ? group : decimal));
}

export function formatNumber(value: number | null | undefined, digits?: number): string {
  if (value === null || value === undefined || !Number.isFinite(value)) return "—";
  const size = Math.abs(value);
  if (digits === undefined && size !== 0 && (size >= LARGE || size < SMALL)) return scientific(value, 4);
  const decimals =
    digits ??
    (Number.isInteger(value) ? 0 : size >= 1000 ? 0 : size >= 100 ? 1 : size >= 1 ? 2 : significant(size));
  const text = size.toLocaleString("en-GB", { minimumFractionDigits: 0, maximumFractionDigits: decimals });
  return (value < 0 ? "−" : "") + text.replaceAll(",", THIN);
}

/** With the same decimals in every row of a column. */
export function formatFixed(value: number | null | undefined, decimals: number): string {
  if (value === null || value === undefined || !Number.isFinite(value)) return "—";
  return (value < 0 ? "−" : "") + Math.abs(value).toFixed(decimals);
}

const LARGE = 1e15;
const SMALL = 1e-6;
const RAISED = "⁰¹²³⁴⁵⁶⁷⁸⁹";

/** Decimals that show four digits which say something. */
function significant(size: number): number {
  return size === 0 ? 0 : Math.max(4, 3 - Math.floor(Math.log10(size)));
}

/** 1.5 × 10⁻⁹: for numbers whose zeros nobody counts. */
function scientific(value: number, digits: number): string {
  const [mantissa, power] = value.toExponential(digits - 1).split("e");
  const raised = [...String(Math.abs(Number(power)))].map((digit) => RAISED[Number(digit)] ?? "").join("");
  const size = String(Math.abs(Number(mantissa)));
  return `${value < 0 ? "−" : ""}${size} × 10${Number(power) < 0 ? "⁻" : ""}${raised}`;
}

/** A number of an axis, with as many decimals as its steps need. */
export function formatTick(value: number, step: number): string {
  const far = Math.abs(value) >= LARGE || step < SMALL;
  if (far && Math.abs(value) > step / 2)
    return scientific(
      value,
      Math.max(1, Math.min(6, 1 + Math.round(Math.log10(Math.abs(value) / step)) + 1)),
    );
  const places = Math.min(8, Math.max(0, -Math.floor(Math.log10(step) + 1e-9)));
  const decimals =
    Math.abs(step * 10 ** places - Math.round(step * 10 ** places)) > 1e-6 ? places + 1 : places;
  const clean = Number(value.toPrecision(12));
  const text = Math.abs(clean).toLocaleString("en-GB", {
    minimumFractionDigits: decimals,
    maximumFractionDigits: decimals,
  });
  return (clean < 0 ? "−" : "") + text.replaceAll(",", THIN);
}

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
const DAYS = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];

export function monthName(month: number): string {
  return MONTHS[month] ?? "";
}

/** A period by its start, on the grain of the figure. */
export function formatPeriod(milliseconds: number, grain: string): string {
  const at = new Date(milliseconds);
  const year = at.getUTCFullYear();
  const month = at.getUTCMonth();
  switch (grain) {
    case "year":
      return String(year);
    case "quarter":
      return `Q${Math.floor(month / 3) + 1} ${year}`;
    case "month":
      return `${monthName(month)} ${year}`;
    case "week":
      return `week of ${at.getUTCDate()} ${monthName(month)} ${year}`;
    case "day":
      return `${DAYS[at.getUTCDay()] ?? ""} ${at.getUTCDate()} ${monthName(month)} ${year}`;
    default:
      return `${at.getUTCDate()} ${monthName(month)} ${year} ${at.toISOString().slice(11, 16)}`;
  }
}

export function formatDate(text: string): string {
  const at = new Date(`${text.slice(0, 10)}T00:00:00Z`);
  return `${at.getUTCDate()} ${monthName(at.getUTCMonth())} ${at.getUTCFullYear()}`;
}

/** A moment, on the clock of whoever looks. */
export function formatMoment(text: string): string {
  const at = new Date(text);
  const clock = [at.getHours(), at.getMinutes()].map((value) => String(value).padStart(2, "0")).join(":");
  return `${at.getDate()} ${monthName(at.getMonth())} ${at.getFullYear()}, ${clock}`;
}

/** A period's label, as files have it, as the screen writes it: 2026-03-14 is 14 Mar 2026. */
export function formatLabel(label: string): string {
  const [, year, month, day, time] =
    /^(\d{4})-(\d{2})(?:-(\d{2}))?(?:T(\d{2}:\d{2}(?:[+-]\d{2}:\d{2})?))?$/.exec(label) ?? [];
  if (year && month) {
    const start = `${day ? `${Number(day)} ` : ""}${monthName(Number(month) - 1)} ${year}`;
    return time ? `${start}, ${time.replace(/[+-].*/, " summer time")}` : start;
  }
  const [, ofYear, part] = /^(\d{4})-([QW]\d+)$/.exec(label) ?? [];
  return ofYear && part ? `${part.replace("W", "week ")} ${ofYear}` : label;
}

/** A difference, with its sign. */
export function formatSigned(value: number): string {
  return value > 0 ? `+${formatNumber(value)}` : formatNumber(value);
}

export function plural(count: number, one: string, many = `${one}s`): string {
  return `${formatNumber(count)} ${count === 1 ? one : many}`;
}

export function fileSize(bytes: number): string {
  if (bytes < 1024) return `${bytes} bytes`;
  if (bytes < 1024 * 1024) return `${formatNumber(bytes / 1024, 0)} KB`;
  return `${formatNumber(bytes / 1024 / 1024, 1)} MB`;
}
