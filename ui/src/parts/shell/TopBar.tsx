import { Moon, Sun } from "lucide-react";
import { lazy, Suspense, useEffect, useState } from "react";
import { NavLink, useLocation } from "react-router";
import { applyTheme, keptTheme } from "./theme";

// With the table of all shortcuts, which the first load does not need.
const Help = lazy(async () => ({ default: (await import("./Help")).Help }));
const RunNews = lazy(async () => ({ default: (await import("./RunNews")).RunNews }));
const KEY = "vexel-bench";
/** After shots and the Bench. */
const PAGES = ["Runs", "Review", "Reel", "Dispatch"];
const PATHS: Record<string, string> = { Reel: "/reels" };

/** The pages in the order of the work, and the running jobs. */
export function TopBar() {
  const bench = useLastBench();
  const place = ({ isActive }: { isActive: boolean }) =>
    `border-b-2 px-3 py-2.5 max-sm:px-1.5 ${isActive ? "border-primary font-semibold" : "border-transparent quiet hover:text-base-content"}`;
  return (
    <header className="flex h-11 shrink-0 items-center gap-1 border-b rule bg-base-100 px-4 max-sm:px-2">
      <span className="mr-4 flex shrink-0 items-center gap-2 text-base font-semibold tracking-tight max-sm:mr-1">
        <img src="/mark.svg" alt="" className="size-6" />
        <span className="max-sm:sr-only">Vexel</span>
      </span>
      <nav aria-label="Pages" className="flex min-w-0 overflow-x-auto overflow-y-hidden">
        <NavLink to="/" end className={place}>
          Shots
        </NavLink>
        {bench ? (
          <NavLink to={bench} className={place}>
            Bench
          </NavLink>
        ) : (
          <button
            type="button"
            disabled
            className="cursor-not-allowed px-3 py-2.5 opacity-40 max-sm:px-1.5"
            title="Open a shot first"
          >
            Bench
          </button>
        )}
        {PAGES.map((name) => (
          <NavLink key={name} to={PATHS[name] ?? `/${name.toLowerCase()}`} className={place}>
            {name}
          </NavLink>
        ))}
      </nav>
      <div className="flex-1" />
      <Suspense>
        <RunNews />
      </Suspense>
      <Suspense fallback={<span className="size-8" />}>
        <Help />
      </Suspense>
      <ThemeSwitch />
    </header>
  );
}

/** The shot that was last on the Bench, so that its place in the order of work is one press away. */
function useLastBench(): string | null {
  const { pathname } = useLocation();
  const bench = /^\/shots\/[^/]+/.exec(pathname)?.[0] ?? null;
  useEffect(() => {
    if (bench) sessionStorage.setItem(KEY, bench);
  }, [bench]);
  return bench ?? sessionStorage.getItem(KEY);
}

function ThemeSwitch() {
  const [theme, setTheme] = useState(keptTheme);
  const other = theme === "light" ? "dark" : "light";
  const label = other === "dark" ? "Dark theme" : "Light theme";
  return (
    <button
      type="button"
      className="btn btn-ghost btn-sm btn-square"
      aria-label={label}
      title={label}
      onClick={() => {
        applyTheme(other);
        setTheme(other);
      }}
    >
      {theme === "light" ? <Moon size={17} /> : <Sun size={17} />}
    </button>
  );
}
