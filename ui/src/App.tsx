import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { useNews } from "./api/news";
import { TopBar } from "./parts/TopBar";
import { Bench } from "./places/bench/Bench";
import { Consent } from "./places/consent/Consent";
import { Player } from "./places/player/Player";
import { RunList } from "./places/runs/RunList";
import { RunPlace } from "./places/runs/RunPlace";
import { ShotList } from "./places/shots/ShotList";

// Whoever needs no guide need not wait for what shows one.
const GuidePlace = lazy(async () => ({ default: (await import("./places/guides/GuidePlace")).GuidePlace }));

export function App() {
  useNews();
  return (
    <div className="relative flex h-full flex-col overflow-hidden">
      <TopBar />
      <Consent />
      <main className="relative min-h-0 flex-1 overflow-auto">
        <Routes>
          <Route path="/" element={<ShotList />} />
          <Route path="/shots/:shotId" element={<Bench />} />
          <Route path="/runs" element={<RunList />} />
          <Route path="/runs/:runId" element={<RunPlace />} />
          <Route path="/files/:outputId" element={<Player />} />
          <Route
            path="/guides/:name?"
            element={
              <Suspense fallback={<div className="quiet p-8">Opening the guide…</div>}>
                <GuidePlace />
              </Suspense>
            }
          />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </main>
    </div>
  );
}
