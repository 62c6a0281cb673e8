import { useEffect, useRef } from "react";
import type { ReactNode } from "react";
import { useOrganisation } from "./shell";
import { texts } from "./texts";

let first = true;

/**
 * What a page is called: in its heading, in the title of the window, and for whoever hears it. The first page that a visit begins with is
 * read from its top; every other one is begun at its heading.
 */
export function Heading({ children, live }: { children: ReactNode; live?: boolean }) {
  const { organisation } = useOrganisation();
  const heading = useRef<HTMLHeadingElement>(null);
  const name = typeof children === "string" ? children : "";
  useEffect(() => {
    document.title = texts.page.title(name, organisation);
  }, [name, organisation]);
  useEffect(() => {
    if (!first) heading.current?.focus();
    first = false;
  }, [name]);
  return (
    <h1
      ref={heading}
      tabIndex={-1}
      aria-live={live ? "polite" : undefined}
      className="text-2xl font-semibold outline-none"
    >
      {children}
    </h1>
  );
}
