import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { away } from "./api/away";
import { App } from "./App";

// what is drawn first waits for no letters: they come after it, and the system's stand in for them
void import("./letters");

const nonce = document.querySelector<HTMLMetaElement>("meta[name=csp-nonce]")?.content;
const cache = createCache({ key: "cl", ...(nonce ? { nonce } : {}) });
const queries = new QueryClient({
  queryCache: new QueryCache({
    onError: (error) => {
      away.failed(error, false);
    },
  }),
  mutationCache: new MutationCache({
    onError: (error) => {
      away.failed(error, true);
    },
  }),
  defaultOptions: {
    queries: { retry: 1, refetchOnWindowFocus: true, networkMode: "always" },
    mutations: { retry: 0, networkMode: "always" },
  },
});
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <CacheProvider value={cache}>
        <QueryClientProvider client={queries}>
          <App />
        </QueryClientProvider>
      </CacheProvider>
    </StrictMode>,
  );
}
