import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { isStillWritten, Problem } from "~/api/client";
import { endKeeping, isKeeping } from "~/lib/offline";
import { App } from "./App";
import { fetchEarly } from "./early";
import "./tokens.css";

const queries = new QueryClient({
  defaultOptions: {
    // Without a network the server on this machine may still be there; and if not, that is to be said, not waited for.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      retry: (count, error) =>
        isStillWritten(error)
          ? count < 150
          : count < 2 && !(error instanceof Problem && error.status >= 400 && error.status < 500),
      retryDelay: 400,
    },
  },
});

// A newer build brings a newer worker. Where nobody asked for one, what an answer on its way may have left goes.
if (isKeeping()) void navigator.serviceWorker.register("/sw.js").catch(() => {});
else void endKeeping().catch(() => {});

fetchEarly(window.location.pathname);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
