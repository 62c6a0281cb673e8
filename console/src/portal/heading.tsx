import { useEffect, useRef } from "react";
import type { ReactNode } from "react";
import { useOrganisation } from "./shell";
import { texts } from "./texts";

let first = true;

/**
 * A page's name, as its heading and in the window's title. Each page after the first moves the focus to its heading, so that a screen
 * reader starts there.
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
