import { lazy, Suspense, useEffect } from "react";
import { Navigate, Route, Routes, useLocation, useSearchParams } from "react-router";
import { useNews, useServerLost } from "./api/events";
import { ShotList } from "./pages/shots/ShotList";
import { GUIDE } from "./parts/hooks/useGuideLink";
import { useHeadingFocus } from "./parts/hooks/useHeadingFocus";
import { ErrorBoundary } from "./parts/shell/ErrorBoundary";
import { TopBar } from "./parts/shell/TopBar";

// The list of shots loads first, the other pages after it: then each opens at once, however busy the server is.
const PAGES = {
  Consent: async () => ({ default: (await import("./pages/consent/Consent")).Consent }),
  Bench: async () => ({ default: (await import("./pages/bench/Bench")).Bench }),
  DispatchPage: async () => ({ default: (await import("./pages/dispatch/DispatchPage")).DispatchPage }),
  GuideBeside: async () => ({ default: (await import("./pages/guides/GuideBeside")).GuideBeside }),
  GuidePage: async () => ({ default: (await import("./pages/guides/GuidePage")).GuidePage }),
  Player: async () => ({ default: (await import("./pages/player/Player")).Player }),
  ReelPage: async () => ({ default: (await import("./pages/reel/ReelPage")).ReelPage }),
  RunList: async () => ({ default: (await import("./pages/runs/RunList")).RunList }),
  RunPage: async () => ({ default: (await import("./pages/runs/RunPage")).RunPage }),
};
const Consent = lazy(PAGES.Consent);
const Bench = lazy(PAGES.Bench);
const DispatchPage = lazy(PAGES.DispatchPage);
const GuideBeside = lazy(PAGES.GuideBeside);
const GuidePage = lazy(PAGES.GuidePage);
const Player = lazy(PAGES.Player);
const ReelPage = lazy(PAGES.ReelPage);
const RunList = lazy(PAGES.RunList);
const RunPage = lazy(PAGES.RunPage);

// Loaded after the first page, and before it is needed: then the server could not send it.
const loadServerLost = async () => ({ default: (await import("./parts/shell/ServerLost")).ServerLost });
const ServerLost = lazy(loadServerLost);

/** The first page's own requests come first. */
const PAGES_AFTER_MS = 1500;

export function App() {
  useNews();
  const lost = useServerLost();
  useEffect(() => {
    void loadServerLost();
    const rest = setTimeout(() => {
      // One that cannot be had now is asked for again when it is opened.
      for (const load of Object.values(PAGES)) void load().catch(() => undefined);
    }, PAGES_AFTER_MS);
    return () => clearTimeout(rest);
  }, []);
  const { pathname } = useLocation();
  const guide = useSearchParams()[0].get(GUIDE);
  useHeadingFocus(pathname);
  return (
    <div className="relative flex h-full flex-col overflow-hidden">
      <TopBar />
      {lost && (
        <Suspense>
          <ServerLost />
        </Suspense>
      )}
      <Suspense>
        <Consent />
      </Suspense>
      <div className="relative flex min-h-0 flex-1">
        <main className="relative min-w-0 flex-1 overflow-auto">
          <ErrorBoundary page={pathname}>
            <Suspense fallback={<div className="quiet p-8">Loading…</div>}>
              <Routes>
                <Route path="/" element={<ShotList />} />
                <Route path="/shots/:shotId" element={<Bench />} />
                <Route path="/runs" element={<RunList />} />
                <Route path="/runs/:runId" element={<RunPage />} />
                <Route path="/reels/:reelId?" element={<ReelPage />} />
                <Route path="/dispatch" element={<DispatchPage />} />
                <Route path="/files/:outputId" element={<Player />} />
                <Route path="/guides/:name?" element={<GuidePage />} />
                <Route path="*" element={<Navigate to="/" replace />} />
              </Routes>
            </Suspense>
          </ErrorBoundary>
        </main>
        {guide && !pathname.startsWith("/guides") && (
          <Suspense>
            <GuideBeside of={guide} />
          </Suspense>
        )}
      </div>
    </div>
  );
}
