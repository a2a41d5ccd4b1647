import { Form, Link } from "react-router";
import { parseAddress, parsePrefix } from "../../core/address/index.ts";
import { isShared, may } from "../../server/access/actor.ts";
import { listPlans } from "../../server/plans.ts";
import { type RouteHit, searchRoutes } from "../../server/route-index.ts";
import type { Route } from "./+types/search";

export async function loader({ request }: Route.LoaderArgs) {
  const q = (new URL(request.url).searchParams.get("q") ?? "").trim();
  if (q === "") return { q, hits: [] as RouteHit[], more: false, error: null };
  if (!parseAddress(q) && !parsePrefix(q)) {
    return {
      q,
      hits: [] as RouteHit[],
      more: false,
      error: `"${q.slice(0, 60)}" is neither an address nor a prefix, such as 172.20.33.7 or 172.20.32.0/20.`,
    };
  }
  // Of plans that may not be read nothing is found.
  const readable = isShared(request)
    ? (await listPlans((id) => may(request, "reads", id))).map(({ id }) => id)
    : null;
  return { q, ...(await searchRoutes(q, readable)), error: null };
}

export function meta() {
  return [{ title: "Search · Iron Fork" }];
}

const relations = { holds: "covers it", within: "is within it", "next-hop": "has it as next hop" };

export default function SearchPage({ loaderData }: Route.ComponentProps) {
  const { q, hits, more, error } = loaderData;
  return (
    <main className="mx-auto max-w-4xl p-6">
      <p>
        <Link to="/plans" className="name-link">
          All plans
        </Link>
      </p>
      <h1 className="mt-2 font-semibold font-sign text-[26px]">Search all plans by address</h1>
      <Form method="get" className="mt-3 flex gap-2">
        <input
          name="q"
          defaultValue={q}
          aria-label="Address or prefix"
          placeholder="172.20.33.7 or 172.20.32.0/20"
          className="field addr w-80 py-1.5"
          aria-invalid={error !== null}
        />
        <button type="submit" className="button button-strong">
          Search
        </button>
      </Form>
      {error && (
        <p role="alert" className="mt-2 text-stop">
          {error}
        </p>
      )}
      {q !== "" && !error && hits.length === 0 && (
        <p className="mt-4 text-ink-2">No routes in any plan match {q}.</p>
      )}
      {hits.length > 0 && (
        <table className="mt-4 w-full text-left">
          <thead className="text-[13px] text-ink-2">
            <tr>
              <th className="py-1 font-normal">destination</th>
              <th className="font-normal">next hop</th>
              <th className="font-normal">from</th>
              <th className="font-normal">device</th>
              <th className="font-normal">plan</th>
              <th className="font-normal">{q}</th>
            </tr>
          </thead>
          <tbody>
            {hits.map((hit) => (
              <tr
                key={`${hit.plan} ${hit.device} ${hit.vrf} ${hit.policyTable} ${hit.destination} ${hit.nextHop} ${hit.out} ${hit.kind}`}
                className="border-rule border-t"
              >
                <td className="addr py-1">{hit.destination}</td>
                <td className="addr">{hit.nextHop ?? hit.out ?? ""}</td>
                <td>{hit.kind}</td>
                <td>
                  <Link
                    className="name-link"
                    to={`/plans/${hit.plan}/devices/${hit.device}?lookup=${encodeURIComponent(q)}`}
                  >
                    {hit.device}
                  </Link>
                </td>
                <td>{hit.name}</td>
                <td className="text-ink-2">{relations[hit.relation]}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {more && (
        <p className="mt-2 text-ink-2">
          Only the first {hits.length} are listed, longest matches first. Search for a longer prefix to see
          others.
        </p>
      )}
    </main>
  );
}
