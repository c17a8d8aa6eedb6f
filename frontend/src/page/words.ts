/** Elements with texts, never with markup, and numbers in the words of the page's reader. */
import { formatNumber, THIN } from "../ui/format";
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
  const marks: Record<string, string> = page.tongue
    ? { ".": page.tongue.decimal, [THIN]: page.tongue.group }
    : {};
  return formatNumber(value).replaceAll(/[.\u2009]/g, (mark) => marks[mark] ?? mark);
}
