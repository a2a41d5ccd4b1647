import schema from "../../docs/plan.schema.json";

/** The plan document's schema, for editors that complete plans. */
export function loader() {
  return Response.json(schema, { headers: { "Cache-Control": "public, max-age=3600" } });
}
