import { LogOut } from "lucide-react";
import { createContext, useCallback, useContext, useEffect, useState } from "react";
import type { ReactNode } from "react";
import { api } from "./api";
import type { Context } from "./api";
import { Button } from "../shared/ui";
import { texts } from "./texts";

const nothingYet: Context = {
  organisation: "",
  helpDesk: "",
  actions: [],
  ready: true,
  paused: [],
  knownBrowser: false,
  shared: false,
  idleSeconds: 300,
  signIn: "",
};

const Organisation = createContext<Context>(nothingYet);

export const useOrganisation = () => useContext(Organisation);

const Leaving = createContext<(leave: (() => void) | null) => void>(() => undefined);

/** While there is something to leave, every page has a plain way to do so, in the same place. */
export function useLeave(leave: (() => void) | null): void {
  const offer = useContext(Leaving);
  useEffect(() => {
    offer(leave);
    return () => offer(null);
  }, [offer, leave]);
}

/** The frame of every page: whose it is, how to leave, and whom to call. */
export function Shell({ children }: { children: ReactNode }) {
  const [context, setContext] = useState<Context>(nothingYet);
  const [leave, setLeave] = useState<(() => void) | null>(null);
  const offer = useCallback((one: (() => void) | null) => setLeave(() => one), []);
  useEffect(() => {
    void api.context().then(setContext);
  }, []);
  const whose = (
    <>
      <Mark />
      {context.organisation || " "}
    </>
  );
  return (
    <Organisation.Provider value={context}>
      <div className="text-md flex min-h-dvh flex-col px-4">
        <header className="mx-auto flex w-full max-w-[27rem] items-center justify-between gap-3 pt-6 pb-2">
          {leave ? (
            <span className="flex items-center gap-2 font-semibold">{whose}</span>
          ) : (
            <a href="/" className="flex items-center gap-2 rounded-md font-semibold">
              {whose}
            </a>
          )}
          {leave && (
            <Button look="quiet" onClick={leave}>
              <LogOut aria-hidden className="size-4" />
              {texts.leave.button}
            </Button>
          )}
        </header>
        <main className="mx-auto w-full max-w-[27rem] flex-1 py-6">
          <Leaving.Provider value={offer}>{children}</Leaving.Provider>
        </main>
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
