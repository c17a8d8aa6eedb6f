import type { KeyboardEvent } from "react";

/** The keys of a row: arrows walk to the next, others do what is given for them. True where the key was one of these. */
export function rowKeys(
  event: KeyboardEvent<HTMLTableRowElement>,
  others: Record<string, (() => void) | undefined>,
): boolean {
  const { key, currentTarget: row } = event;
  if (key === "ArrowDown") focusOn(row.nextElementSibling);
  else if (key === "ArrowUp") focusOn(row.previousElementSibling);
  else if (others[key]) others[key]();
  else return false;
  event.preventDefault();
  return true;
}

function focusOn(row: Element | null): void {
  (row as HTMLElement | null)?.focus();
}
