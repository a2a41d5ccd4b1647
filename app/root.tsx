import { QueryClientProvider } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Links, Meta, Outlet, Scripts, ScrollRestoration, useLocation } from "react-router";
import "./app.css";
import { cacheHere } from "./engine/cache.ts";
import { useRequestFacts } from "./request.tsx";
import { ErrorPage } from "./ui/error-page.tsx";
import { ToastProvider } from "./ui/toast.tsx";
import { TooltipProvider } from "./ui/tooltip.tsx";

export function meta() {
  return [{ title: "Iron Fork" }];
}

export function Layout({ children }: { children: React.ReactNode }) {
  const { nonce, requestId } = useRequestFacts();
  return (
    <html lang="en" data-request={requestId} suppressHydrationWarning>
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <link rel="icon" href="/mark.svg" type="image/svg+xml" />
        <Meta />
        <Links />
      </head>
      <body>
        {children}
        <ScrollRestoration nonce={nonce} />
        <Scripts nonce={nonce} />
      </body>
    </html>
  );
}

export default function App() {
  const [cache] = useState(cacheHere);
  const { key } = useLocation();
  // Tells tests that the page's scripts handle input and show the address's content.
  useEffect(() => {
    document.documentElement.dataset.ready = key;
  }, [key]);
  return (
    <QueryClientProvider client={cache}>
      <TooltipProvider>
        <ToastProvider>
          <Outlet />
        </ToastProvider>
      </TooltipProvider>
    </QueryClientProvider>
  );
}

export function ErrorBoundary() {
  return (
    <main>
      <ErrorPage />
    </main>
  );
}
