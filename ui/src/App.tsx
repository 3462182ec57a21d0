import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { useNews } from "./api/events";
import { ErrorBoundary } from "./parts/shell/ErrorBoundary";
import { TopBar } from "./parts/shell/TopBar";
import { Consent } from "./places/consent/Consent";
import { ShotList } from "./places/shots/ShotList";

// The list of shots is there first; each place comes when it is opened.
const Bench = lazy(async () => ({ default: (await import("./places/bench/Bench")).Bench }));
const DispatchPlace = lazy(async () => ({
  default: (await import("./places/dispatch/DispatchPlace")).DispatchPlace,
}));
const GuidePlace = lazy(async () => ({ default: (await import("./places/guides/GuidePlace")).GuidePlace }));
const Player = lazy(async () => ({ default: (await import("./places/player/Player")).Player }));
const ReelPlace = lazy(async () => ({ default: (await import("./places/reel/ReelPlace")).ReelPlace }));
const RunList = lazy(async () => ({ default: (await import("./places/runs/RunList")).RunList }));
const RunPlace = lazy(async () => ({ default: (await import("./places/runs/RunPlace")).RunPlace }));

export function App() {
  useNews();
  const { pathname } = useLocation();
  return (
    <div className="relative flex h-full flex-col overflow-hidden">
      <TopBar />
      <Consent />
      <main className="relative min-h-0 flex-1 overflow-auto">
        <ErrorBoundary place={pathname}>
          <Suspense fallback={<div className="quiet p-8">Loading…</div>}>
            <Routes>
              <Route path="/" element={<ShotList />} />
              <Route path="/shots/:shotId" element={<Bench />} />
              <Route path="/runs" element={<RunList />} />
              <Route path="/runs/:runId" element={<RunPlace />} />
              <Route path="/reels/:reelId?" element={<ReelPlace />} />
              <Route path="/dispatch" element={<DispatchPlace />} />
              <Route path="/files/:outputId" element={<Player />} />
              <Route path="/guides/:name?" element={<GuidePlace />} />
              <Route path="*" element={<Navigate to="/" replace />} />
            </Routes>
          </Suspense>
        </ErrorBoundary>
      </main>
    </div>
  );
}
