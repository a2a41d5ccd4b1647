import {
  isRouteErrorResponse,
  Links,
  Meta,
  Outlet,
  Scripts,
  ScrollRestoration,
  useRouteError,
} from "react-router";
import "./app.css";

export function meta() {
  return [{ title: "Iron Fork" }];
}

export function Layout({ children }: { children: React.ReactNode }) {
  return (
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <link rel="icon" href="/mark.svg" type="image/svg+xml" />
        <Meta />
        <Links />
      </head>
      <body>
        {children}
        <ScrollRestoration />
        <Scripts />
      </body>
    </html>
  );
}

export default function App() {
  return <Outlet />;
}

export function ErrorBoundary() {
  const error = useRouteError();
  const known = isRouteErrorResponse(error);
  const title = known && error.status === 404 ? "There is nothing here" : "Something went wrong";
  const text = known
    ? String(error.data || error.statusText)
    : "The server could not answer. It has noted the error; try again, and tell whoever runs it if it stays.";
  return (
    <main className="mx-auto max-w-xl p-8">
      <h1 className="font-sign text-2xl font-semibold">{title}</h1>
      <p className="mt-2 text-ink-2">{text}</p>
      <p className="mt-4">
        <a className="name-link" href="/plans">
          All plans
        </a>
      </p>
    </main>
  );
}
