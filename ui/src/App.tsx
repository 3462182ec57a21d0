import { lazy, Suspense, useEffect } from "react";
import { Navigate, Route, Routes, useLocation, useSearchParams } from "react-router";
import { useNews, useServerLost } from "./api/events";
import { ShotList } from "./pages/shots/ShotList";
import { GUIDE } from "./parts/hooks/useGuideLink";
import { useHeadingFocus } from "./parts/hooks/useHeadingFocus";
import { LATER, Later, later } from "./parts/Later";
import { ErrorBoundary } from "./parts/shell/ErrorBoundary";
import { TopBar } from "./parts/shell/TopBar";

// The list of shots loads first, the other pages after it: then each opens at once, however busy the server is.
// Loaded before it is needed: then the server could not send it.
const ServerLost = later(() => import("./parts/shell/ServerLost"), "ServerLost");
const RunList = later(() => import("./pages/runs/RunList"), "RunList");
const Bench = later(() => import("./pages/bench/Bench"), "Bench");
const ReelPage = later(() => import("./pages/reel/ReelPage"), "ReelPage");
const DispatchPage = later(() => import("./pages/dispatch/DispatchPage"), "DispatchPage");
const RunPage = later(() => import("./pages/runs/RunPage"), "RunPage");
const ReviewPage = later(() => import("./pages/review"), "ReviewPage");
const ReviewList = later(() => import("./pages/review"), "ReviewList");
const ContactSheet = later(() => import("./pages/variants/ContactSheet"), "ContactSheet");
const StoragePage = later(() => import("./pages/storage/StoragePage"), "StoragePage");
const Consent = later(() => import("./pages/consent/Consent"), "Consent");
const GuidePage = later(() => import("./pages/guides/GuidePage"), "GuidePage");
const Player = later(() => import("./pages/player/Player"), "Player");
const GuideBeside = lazy(async () => ({
  default: (await import("./pages/guides/GuideBeside")).GuideBeside,
}));

/** The first page's own requests come first. */
const PAGES_AFTER_MS = 1500;

export function App() {
  useNews();
  const lost = useServerLost();
  useEffect(() => {
    void ServerLost.load();
    const rest = setTimeout(() => {
      for (const page of LATER) void page.load();
    }, PAGES_AFTER_MS);
    return () => clearTimeout(rest);
  }, []);
  const { pathname } = useLocation();
  useHeadingFocus(pathname);
  const guide = useSearchParams()[0].get(GUIDE);
  return (
    <div className="relative flex h-full flex-col overflow-hidden">
      <TopBar />
      {lost && (
        <Suspense>
          <Later part={ServerLost} />
        </Suspense>
      )}
      <Suspense>
        <Later part={Consent} />
      </Suspense>
      <div className="relative flex min-h-0 flex-1">
        {/* Only what has an opaque background scrolls without being painted again. */}
        <main className="relative min-w-0 flex-1 overflow-auto bg-base-200">
          <ErrorBoundary page={pathname}>
            <Suspense fallback={<div className="quiet p-8">Loading…</div>}>
              <Routes>
                <Route path="/" element={<ShotList />} />
                <Route path="/shots/:shotId" element={<Later part={Bench} />} />
                <Route path="/shots/:shotId/variants" element={<Later part={ContactSheet} />} />
                <Route path="/runs" element={<Later part={RunList} />} />
                <Route path="/runs/:runId" element={<Later part={RunPage} />} />
                <Route path="/review" element={<Later part={ReviewList} />} />
                <Route path="/review/:kind/:name" element={<Later part={ReviewPage} />} />
                <Route path="/reels/:reelId?" element={<Later part={ReelPage} />} />
                <Route path="/storage" element={<Later part={StoragePage} />} />
                <Route path="/dispatch" element={<Later part={DispatchPage} />} />
                <Route path="/files/:outputId" element={<Later part={Player} />} />
                <Route path="/guides/:name?" element={<Later part={GuidePage} />} />
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
