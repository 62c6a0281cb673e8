import type { Page, Place } from "./page";

const files = import.meta.glob<{ page?: Page; pages?: Page[] }>("./pages/*.tsx", { eager: true });

/** Every page that a file in `pages` offers. */
export const pages: Page[] = Object.values(files).flatMap((file) => file.pages ?? (file.page ? [file.page] : []));

/** The pages of a place that are one click away from each other, in their order. */
export function beside(place: Place): Page[] {
  return pages
    .filter((page) => page.place === place && page.beside)
    .toSorted((one, other) => one.beside!.at - other.beside!.at);
}

/** The page that an address leads to; one without parameters comes first. */
export function pageAt(path: string): Page | undefined {
  const parts = path.split("/").filter(Boolean);
  const fits = pages.filter((page) => {
    const own = page.path.split("/").filter(Boolean);
    return own.length === parts.length && own.every((part, at) => part.startsWith(":") || part === parts[at]);
  });
  return fits.find((page) => !page.path.includes(":")) ?? fits[0];
}
