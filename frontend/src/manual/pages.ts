/** The pages of docs/manual, as they are in the folder, cut into what is asked and what is answered. */

interface Section {
  page: string;
  heading: string;
  anchor: string;
  text: string;
}

export interface ManualPage {
  name: string;
  title: string;
  text: string;
  sections: Section[];
}

const FILES = import.meta.glob<string>("../../../docs/manual/*.md", {
  query: "?raw",
  import: "default",
  eager: true,
});

export const HOME = "index";
export const KEYS = "keys";

export const PAGES: ManualPage[] = Object.entries(FILES).map(([path, text]) =>
  pageOf(path.replace(/^.*\/|\.md$/g, ""), text),
);

function pageOf(name: string, text: string): ManualPage {
  const [head = "", ...parts] = text.split(/^## /m);
  const title = /^# (.*)$/m.exec(head)?.[1] ?? name;
  const sections = parts.map((part) => {
    const [heading = "", ...lines] = part.split("\n");
    return { page: name, heading, anchor: anchorOf(heading), text: lines.join("\n") };
  });
  return { name, title, text, sections };
}

/** The name of a heading in an address. */
export function anchorOf(heading: string): string {
  return heading
    .toLowerCase()
    .replaceAll(/[^\p{L}\p{N}]+/gu, "-")
    .replaceAll(/^-|-$/g, "");
}

/** Where a kind of entry is explained: under the heading that ends with its name. */
export function sectionOf(kind: string, pages = PAGES): Section | undefined {
  return pages.flatMap((page) => page.sections).find(({ heading }) => heading.endsWith(`(\`${kind}\`)`));
}

const MOST_FOUND = 12;

/** The sections that have all words, those that have them in their heading first. */
export function search(wanted: string, pages = PAGES): Section[] {
  const words = wanted
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word && !["how", "do", "i", "a", "the"].includes(word));
  if (!words.length) return [];
  const titles = new Map(pages.map((page) => [page.name, page.title.toLowerCase()]));
  return pages
    .flatMap((page) => page.sections)
    .map((section) => {
      const heading = `${section.heading.toLowerCase()} ${titles.get(section.page) ?? ""}`;
      const all = `${heading} ${section.text.toLowerCase()}`;
      const holds = words.every((word) => all.includes(word));
      return { section, score: holds ? 1 + words.filter((word) => heading.includes(word)).length : 0 };
    })
    .filter(({ score }) => score > 0)
    .sort((a, b) => b.score - a.score)
    .slice(0, MOST_FOUND)
    .map(({ section }) => section);
}
