import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { beginNews } from "./api/events";
import { loadVocabulary } from "./api/vocabulary";
import "./styles.css";
import { applyTheme, keptTheme } from "./parts/shell/theme";

applyTheme(keptTheme());

const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: 1, refetchOnWindowFocus: true } },
});

const root = document.getElementById("root");

function draw(into: HTMLElement) {
  createRoot(into).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        {/* Without transitions, which would keep the old page until the new one has loaded. */}
        <BrowserRouter useTransitions={false}>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}

// Without a session it is refused, and the application shows what to do.
if (root)
  Promise.all([loadVocabulary(), beginNews()]).then(
    () => draw(root),
    () => draw(root),
  );
