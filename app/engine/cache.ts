import { QueryClient } from "@tanstack/react-query";

let inBrowser: QueryClient | null = null;

/** The cache of this browser; on the server each request has one of its own. */
export function cacheHere(): QueryClient {
  if (typeof document === "undefined") return createCache();
  inBrowser ??= createCache();
  return inBrowser;
}

/**
 * What the open pages were answered, by question: one cache with observers. An answer belongs to a revision and never
 * grows old; what nobody looks at any more is let go after two minutes.
 */
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
