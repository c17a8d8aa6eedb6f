import type { Slot } from "../api/client";

/** What one step of an arrow key makes of a number word; undefined where the word is no number. */
export function nudged(slot: Slot, value: unknown, direction: 1 | -1, fast: boolean): unknown {
  if (slot.type === "integer" || slot.type === "number") {
    const from = typeof value === "number" ? value : (slot.minimum ?? 0);
    const step = (slot.step ?? (slot.type === "integer" ? 1 : niceStep(from))) * (fast ? 10 : 1);
    return clamp(round(from + direction * step), slot);
  }
  if (slot.type === "choice") {
    const at = slot.choices.findIndex((choice) => choice.value === value);
    const next = slot.choices[(at + direction + slot.choices.length) % slot.choices.length];
    return next?.value;
  }
  return undefined;
}

function clamp(value: number, slot: Slot): number {
  const low = slot.minimum ?? -Infinity;
  const high = slot.maximum ?? Infinity;
  return Math.min(high, Math.max(low, value));
}

function niceStep(value: number): number {
  const size = Math.abs(value) || 1;
  return 10 ** (Math.floor(Math.log10(size)) - 1);
}

function round(value: number): number {
  return Number(value.toPrecision(12));
}

/** The value a typed text stands for, or what is wrong with it. */
export function parseTyped(slot: Slot, text: string): { value: unknown } | { wrong: string } {
  const clean = text.trim();
  if (clean === "" && slot.empty && slot.type !== "names") return { value: null };
  if (slot.type === "integer" || slot.type === "number") {
    const number = Number(clean.replaceAll(/[\s\u2009]/g, "").replace("−", "-"));
    if (clean === "" || !Number.isFinite(number)) return { wrong: `“${clean}” is not a number.` };
    if (slot.type === "integer" && !Number.isInteger(number))
      return { wrong: "A whole number is needed here." };
    if (number !== clamp(number, slot)) {
      return { wrong: `From ${slot.minimum ?? "any"} to ${slot.maximum ?? "any"}.` };
    }
    return { value: number };
  }
  if (slot.type === "numbers") {
    const numbers = clean
      .split(/[\s,;%]+|and/)
      .filter(Boolean)
      .map(Number);
    if (!numbers.length || numbers.some((n) => !Number.isFinite(n)))
      return { wrong: "Numbers with commas between, like 80, 95." };
    const beyond = numbers.find((number) => number !== clamp(number, slot));
    if (beyond !== undefined)
      return { wrong: `${beyond} is not from ${slot.minimum ?? "any"} to ${slot.maximum ?? "any"}.` };
    return { value: numbers };
  }
  if (slot.type === "date") {
    return /^\d{4}-\d{2}-\d{2}$/.test(clean) && !Number.isNaN(Date.parse(clean))
      ? { value: clean }
      : { wrong: "A date like 2026-10-31." };
  }
  if (slot.type === "moment") {
    return /^\d{4}-\d{2}-\d{2}(T\d{2}:\d{2}(:\d{2})?)?$/.test(clean) && !Number.isNaN(Date.parse(clean))
      ? { value: clean }
      : { wrong: "A day like 2026-10-31, or with a time: 2026-10-31T07:00." };
  }
  if (slot.type === "names") return { value: clean.split(/\s*,\s*/).filter(Boolean) };
  return { value: clean };
}

export function typedText(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (Array.isArray(value)) return value.join(", ");
  return String(value);
}
