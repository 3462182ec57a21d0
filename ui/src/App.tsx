import { Navigate, Route, Routes } from "react-router";
import { useNews } from "./api/news";
import { TopBar } from "./parts/TopBar";
import { Bench } from "./places/bench/Bench";
import { Player } from "./places/player/Player";
import { RunList } from "./places/runs/RunList";
import { RunPlace } from "./places/runs/RunPlace";
import { ShotList } from "./places/shots/ShotList";

export function App() {
  useNews();
  return (
    <div className="flex h-full flex-col">
      <TopBar />
      <main className="min-h-0 flex-1 overflow-auto">
        <Routes>
          <Route path="/" element={<ShotList />} />
          <Route path="/shots/:shotId" element={<Bench />} />
          <Route path="/runs" element={<RunList />} />
          <Route path="/runs/:runId" element={<RunPlace />} />
          <Route path="/files/:outputId" element={<Player />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </main>
    </div>
  );
}
