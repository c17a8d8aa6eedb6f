/** Words within clauses, by their path: "rule.far" is the word far of the clause that stands in rule. Pure. */
import type { Params, Slot } from "../api/client";

type Clause = Slot["clauses"][number];

export function isWords(value: unknown): value is Params {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** The slot at a path of a sentence whose words stand as they do; undefined where the screen does not know it. */
export function slotAt(words: Slot[], params: Params, path: string): Slot | undefined {
  const [name, ...rest] = path.split(".");
  const slot = words.find((word) => word.name === name);
  if (!slot || !rest.length) return slot;
  const held = params[name ?? ""];
  const clause = isWords(held) ? slot.clauses.find((offered) => offered.kind === held.kind) : undefined;
  return clause && isWords(held) ? slotAt(clause.words, held, rest.join(".")) : undefined;
}

export function valueAt(params: Params, path: string): unknown {
  let value: unknown = params;
  for (const name of path.split(".")) value = isWords(value) ? value[name] : undefined;
  return value;
}

export function withValue(params: Params, path: string, value: unknown): Params {
  const [name = "", ...rest] = path.split(".");
  if (!rest.length) return { ...params, [name]: value };
  const held = params[name];
  return { ...params, [name]: withValue(isWords(held) ? held : {}, rest.join("."), value) };
}

/** Another clause in the place of one: words that both have, under the same title, keep what they say. usual: figures
 * of the study that new words take up. */
export function exchanged(slot: Slot, held: unknown, kind: unknown, usual: Record<string, number>): unknown {
  const next = slot.clauses.find((clause) => clause.kind === kind);
  if (!next) return held;
  const before = isWords(held) ? slot.clauses.find((clause) => clause.kind === held.kind) : undefined;
  const words: Params = { ...next.params };
  for (const word of next.words) {
    const first = word.usual ? usual[word.usual] : undefined;
    if (first !== undefined) words[word.name] = first;
    if (
      before &&
      isWords(held) &&
      sameWord(before, word) &&
      next.params[word.name] === before.params[word.name]
    )
      words[word.name] = held[word.name];
  }
  return words;
}

function sameWord(clause: Clause, word: Slot): boolean {
  return clause.words.some(
    (known) => known.name === word.name && known.title === word.title && known.type === word.type,
  );
}

/** A slot that holds a clause, or a reading, as a list of these to choose from. */
export function asChoice(slot: Slot, readings: Slot["choices"] = []): Slot {
  if (slot.options === "readings") return { ...slot, type: "choice", options: null, choices: readings };
  if (slot.type !== "clause") return slot;
  const choices = slot.clauses.map((clause) => ({
    value: clause.kind,
    label: clause.label,
    tip: clause.tip,
  }));
  return { ...slot, type: "choice", choices };
}
