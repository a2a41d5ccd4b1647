import { useEffect } from "react";
import {
  isRouteErrorResponse,
  Links,
  Meta,
  Outlet,
  Scripts,
  ScrollRestoration,
  useLocation,
  useRouteError,
} from "react-router";
import "./app.css";
import { useRequestFacts } from "./request.tsx";

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
  // Told to whoever waits until the page's scripts handle what is typed and clicked.
  useEffect(() => {
    document.documentElement.dataset.ready = "";
  }, []);
  return <Outlet />;
}

const titles: Record<number, string> = {
  404: "There is nothing here",
  503: "This cannot be answered now",
};

export function ErrorBoundary() {
  const error = useRouteError();
  const { requestId } = useRequestFacts();
  const { pathname, search } = useLocation();
  const known = isRouteErrorResponse(error);
  const title = known ? (titles[error.status] ?? "Something went wrong") : "Something went wrong";
  const expected = known && error.status < 500;
  const text =
    known && error.status !== 500
      ? String(error.data || error.statusText)
      : "This could not be answered. The error is in the server's log; try again, and tell whoever runs it if it stays.";
  return (
    <main className="mx-auto max-w-xl p-8">
      <h1 className="font-sign text-2xl font-semibold">{title}</h1>
      <p className="mt-2 text-ink-2">{text}</p>
      {!expected && requestId !== "" && (
        <p className="mt-2 text-[13px] text-ink-2">
          In the log it stands under the request <span className="addr">{requestId}</span>.
        </p>
      )}
      <p className="mt-4 flex gap-4">
        {!expected && (
          <a className="name-link" href={`${pathname}${search}`}>
            Try again
          </a>
        )}
        <a className="name-link" href="/plans">
          All plans
        </a>
      </p>
    </main>
  );
}
