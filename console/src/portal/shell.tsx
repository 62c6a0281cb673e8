import { createContext, useContext, useEffect, useState } from "react";
import type { ReactNode } from "react";
import { api } from "./api";
import type { Context } from "./api";
import { texts } from "./texts";

const nothingYet: Context = {
  organisation: "",
  helpDesk: "",
  actions: [],
  ready: true,
  paused: [],
  knownBrowser: false,
};

const Organisation = createContext<Context>(nothingYet);

export const useOrganisation = () => useContext(Organisation);

/** The frame of every page: whose it is, and whom to call. */
export function Shell({ children }: { children: ReactNode }) {
  const [context, setContext] = useState<Context>(nothingYet);
  useEffect(() => {
    void api.context().then((found) => {
      setContext(found);
      document.title = texts.page.title(found.organisation);
    });
  }, []);
  return (
    <Organisation.Provider value={context}>
      <div className="text-md flex min-h-dvh flex-col px-4">
        <header className="mx-auto w-full max-w-[27rem] pt-6 pb-2">
          <a href="/" className="flex items-center gap-2 rounded-md font-semibold">
            <Mark />
            {context.organisation || " "}
          </a>
        </header>
        <main className="mx-auto w-full max-w-[27rem] flex-1 py-6">{children}</main>
        <footer className="border-line text-muted mx-auto w-full max-w-[27rem] border-t py-4 text-sm">
          {context.helpDesk && texts.page.helpDesk(context.helpDesk)} {texts.page.never}
        </footer>
      </div>
    </Organisation.Provider>
  );
}

/** On every page that is not plain success: what to tell the help desk. */
export function ReferenceLine({ attempt }: { attempt: { reference: string } }) {
  return (
    <p className="text-muted text-sm">
      {texts.reference.label} <span className="text-ink font-mono whitespace-nowrap">{attempt.reference}</span>.{" "}
      {texts.reference.about}
    </p>
  );
}

function Mark() {
  return (
    <svg aria-hidden viewBox="0 0 32 32" className="text-accent size-7">
      <rect width="32" height="32" rx="7" fill="currentColor" />
      <path
        d="M6 21c2.5 0 2.5-2 5-2s2.5 2 5 2 2.5-2 5-2 2.5 2 5 2M9 15l7-6 7 6"
        fill="none"
        stroke="var(--on-accent)"
        strokeWidth="2.4"
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    </svg>
  );
}
