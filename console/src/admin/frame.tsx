import { useQuery, useQueryClient } from "@tanstack/react-query";
import { clsx } from "clsx";
import {
  CalendarCheck,
  FileClock,
  Headset,
  Moon,
  Network,
  ScrollText,
  Search,
  SlidersHorizontal,
  Sun,
  Users,
} from "lucide-react";
import type { LucideIcon } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { NavLink, Navigate, Outlet, useLocation, useNavigate } from "react-router";
import { Problem } from "../shared/problem";
import { Button } from "../shared/ui";
import { Confirmations } from "./again";
import { api, data, onWaiting } from "./api";
import { DraftBar } from "./drafts";
import { Loading } from "./parts";
import { ask } from "./queries";
import { type Place, places } from "./page";
import { pageAt } from "./registry";
import { StopBar, StopControl } from "./pages/stops";
import { setTheme, theme } from "./theme";
import { LastTold, changeFailed, changeWaits } from "./told";
import { forgetTyped } from "./typed";

const rail: Record<Place, { to: string; title: string; icon: LucideIcon }> = {
  today: { to: "/", title: "Today", icon: CalendarCheck },
  directories: { to: "/directories", title: "Directories", icon: Network },
  people: { to: "/people", title: "People", icon: Users },
  "help-desk": { to: "/help-desk", title: "Help desk", icon: Headset },
  policies: { to: "/policies", title: "Policies", icon: ScrollText },
  audit: { to: "/audit", title: "Audit", icon: FileClock },
  settings: { to: "/settings", title: "Settings", icon: SlidersHorizontal },
};

/** Rail, search and draft bar around every page; staff have the help desk alone. */
export function Frame() {
  const location = useLocation();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const main = useRef<HTMLElement>(null);
  const session = useQuery(ask.session());

  useEffect(() => {
    document.title = `${pageAt(location.pathname)?.title ?? "No such page"} · Entente`;
    main.current?.scrollTo(0, 0);
  }, [location.pathname]);

  useEffect(() => onWaiting(changeWaits), []);

  if ((session.isSuccess && !session.data) || (session.error instanceof Problem && session.error.status === 401)) {
    return <Navigate to="/sign-in" replace state={{ back: location.pathname + location.search }} />;
  }

  if (session.data?.setUpFirst) {
    return <Navigate to="/second-factor" replace state={{ back: location.pathname + location.search }} />;
  }

  const staff = session.data?.role === "staff";
  if (staff && pageAt(location.pathname)?.place !== "help-desk") {
    return <Navigate to="/help-desk" replace />;
  }

  async function signOut() {
    try {
      await data(api.DELETE("/api/v1/session"));
      queries.clear();
      forgetTyped();
      await navigate("/sign-in");
    } catch (problem) {
      changeFailed(problem);
    }
  }

  return (
    <Loading query={session}>
      {() => (
        <div className="isolate flex min-h-dvh flex-col md:flex-row">
          <a
            href="#main"
            className="bg-surface sr-only z-10 rounded-md p-2 focus:not-sr-only focus:absolute focus:top-2 focus:left-2"
          >
            To the content
          </a>
          <nav
            aria-label="Main"
            className="border-line bg-sunken flex shrink-0 flex-row flex-wrap items-center gap-1 p-3 max-md:border-b md:sticky md:top-0 md:h-dvh md:w-56 md:flex-col md:items-stretch md:border-r"
          >
            <span className="px-2 py-1 text-lg font-semibold md:mb-3">Entente</span>
            {places
              .filter((place) => !staff || place === "help-desk")
              .map((place) => rail[place])
              .map(({ to, title, icon: Icon }) => (
                <NavLink
                  key={to}
                  to={to}
                  end={to === "/"}
                  className={({ isActive }) =>
                    clsx(
                      "flex min-h-9 items-center gap-2 rounded-md px-2",
                      isActive ? "bg-accent-soft text-accent-ink font-medium" : "hover:bg-surface",
                    )
                  }
                >
                  <Icon aria-hidden className="size-4" />
                  <span>{title}</span>
                </NavLink>
              ))}
            <div className="flex items-center gap-1 md:mt-auto md:flex-col md:items-stretch md:pt-4">
              <ThemeButton />
              <span className="text-muted px-2 text-sm max-md:hidden">{session.data?.login}</span>
              <Button look="quiet" onClick={() => void signOut()} className="justify-start">
                Sign out
              </Button>
            </div>
          </nav>
          <div className="flex min-w-0 flex-1 flex-col">
            {!staff && (
              <div className="bg-canvas md:sticky md:top-0 md:z-10">
                <StopBar />
                <DraftBar />
                <div className="border-line flex items-center gap-3 border-b px-4 py-2 md:px-6">
                  <PersonSearch />
                  <StopControl />
                </div>
              </div>
            )}
            <main
              ref={main}
              id="main"
              tabIndex={-1}
              className="w-full max-w-6xl min-w-0 flex-1 p-4 outline-none md:p-6"
            >
              <Outlet />
            </main>
          </div>
          <Confirmations />
          <LastTold />
        </div>
      )}
    </Loading>
  );
}

/** One search box away from everywhere: explain a person. The key / goes there. */
function PersonSearch() {
  const box = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const [text, setText] = useState("");

  useEffect(() => {
    function toBox(event: KeyboardEvent) {
      const at = event.target as HTMLElement;
      if (event.key === "/" && !/^(INPUT|TEXTAREA|SELECT)$/.test(at.tagName)) {
        event.preventDefault();
        box.current?.focus();
      }
    }
    window.addEventListener("keydown", toBox);
    return () => window.removeEventListener("keydown", toBox);
  }, []);

  return (
    <form
      role="search"
      className="flex w-full max-w-md items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void navigate(`/people?search=${encodeURIComponent(text)}`);
      }}
    >
      <Search aria-hidden className="text-muted size-4" />
      <input
        ref={box}
        aria-label="Find a person and explain"
        placeholder="Find a person and explain (press /)"
        value={text}
        onChange={(event) => setText(event.target.value)}
        className="border-control bg-surface min-h-8 w-full rounded-md border px-2"
      />
    </form>
  );
}

function ThemeButton() {
  const [now, setNow] = useState(theme());
  const dark = now === "dark" || (now === "system" && window.matchMedia("(prefers-color-scheme: dark)").matches);
  return (
    <Button
      look="quiet"
      className="justify-start"
      aria-label={dark ? "Use light colours" : "Use dark colours"}
      onClick={() => {
        const next = dark ? "light" : "dark";
        setTheme(next);
        setNow(next);
      }}
    >
      {dark ? <Sun aria-hidden className="size-4" /> : <Moon aria-hidden className="size-4" />}
      <span className="max-md:hidden">{dark ? "Light" : "Dark"}</span>
    </Button>
  );
}
