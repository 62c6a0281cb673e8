import type { ComponentType } from "react";

/** The places of the rail, in the order of the work. */
export const places = ["today", "directories", "people", "help-desk", "policies", "audit", "settings"] as const;

export type Place = (typeof places)[number];

/**
 * What a page says of itself. A file in `pages` that exports `page`, or `pages`, has them in the console: nothing else lists them.
 */
export interface Page {
  /** Below `/console`; may hold parameters. */
  path: string;
  /** For the browser's tab and its history. */
  title: string;
  place: Place;
  /** Its position among the pages of its place that are one click away from each other; without one it is reached otherwise. */
  beside?: { at: number; title: string };
  element: ComponentType;
}
