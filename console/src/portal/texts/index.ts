import { en } from "./en";

/** Every text of the portal: a language is complete when it has this shape. */
export type Texts = typeof en;

/** What the portal says, in the language of this page. */
export const texts: Texts = en;
