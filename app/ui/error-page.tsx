import { isRouteErrorResponse, useLocation, useRouteError } from "react-router";
import { useRequestFacts } from "../request.tsx";

const titles: Record<number, string> = {
  404: "Page not found",
  503: "Not available right now",
};

/** What went wrong, where it stands in the log, and what to do: alone, or inside the frame of a plan. */
export function ErrorPage() {
  const error = useRouteError();
  const { requestId } = useRequestFacts();
  const { pathname, search } = useLocation();
  const known = isRouteErrorResponse(error);
  const title = known ? (titles[error.status] ?? "Something went wrong") : "Something went wrong";
  const expected = known && error.status < 500;
  const text =
    known && error.status !== 500
      ? String(error.data || error.statusText)
      : "The server could not answer. Try again. If the error persists, contact the operator: details are in the server's log.";
  return (
    <section className="mx-auto max-w-xl p-8">
      <h1 className="font-sign text-2xl font-semibold">{title}</h1>
      <p className="mt-2 text-ink-2">{text}</p>
      {!expected && requestId !== "" && (
        <p className="mt-2 text-[13px] text-ink-2">
          Request id: <span className="addr">{requestId}</span>.
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
    </section>
  );
}
