import { lazy, Suspense, useEffect } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { useNews, useServerLost } from "./api/events";
import { ShotList } from "./pages/shots/ShotList";
import { ErrorBoundary } from "./parts/shell/ErrorBoundary";
import { TopBar } from "./parts/shell/TopBar";

// The list of shots loads first; each other page loads when it is opened.
const Consent = lazy(async () => ({ default: (await import("./pages/consent/Consent")).Consent }));
const Bench = lazy(async () => ({ default: (await import("./pages/bench/Bench")).Bench }));
const DispatchPage = lazy(async () => ({
  default: (await import("./pages/dispatch/DispatchPage")).DispatchPage,
}));
const GuidePage = lazy(async () => ({ default: (await import("./pages/guides/GuidePage")).GuidePage }));
const Player = lazy(async () => ({ default: (await import("./pages/player/Player")).Player }));
const ReelPage = lazy(async () => ({ default: (await import("./pages/reel/ReelPage")).ReelPage }));
const RunList = lazy(async () => ({ default: (await import("./pages/runs/RunList")).RunList }));
const RunPage = lazy(async () => ({ default: (await import("./pages/runs/RunPage")).RunPage }));

// Loaded after the first page, and before it is needed: then the server could not send it.
const loadServerLost = async () => ({ default: (await import("./parts/shell/ServerLost")).ServerLost });
const ServerLost = lazy(loadServerLost);

export function App() {
  useNews();
  const lost = useServerLost();
  useEffect(() => {
    void loadServerLost();
  }, []);
  const { pathname } = useLocation();
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
      <main className="relative min-h-0 flex-1 overflow-auto">
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
    </div>
  );
}
