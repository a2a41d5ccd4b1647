import { QueryClient } from "@tanstack/react-query";

let inBrowser: QueryClient | null = null;

/** The cache of this browser; on the server each request has its own. plain-ok */
export function cacheHere(): QueryClient {
  if (typeof document === "undefined") return createCache();
  inBrowser ??= createCache();
  return inBrowser;
}

/** Answers of the open pages by question: one cache with observers. An answer belongs to a revision and never expires;
 * unobserved answers are dropped after two minutes. */
function createCache(): QueryClient {
  return new QueryClient({
    defaultOptions: {
      queries: {
        staleTime: Number.POSITIVE_INFINITY,
        gcTime: 120_000,
        retry: false,
        refetchOnWindowFocus: false,
        refetchOnReconnect: false,
        networkMode: "always",
      },
    },
  });
}
