import { index, type RouteConfig, route } from "@react-router/dev/routes";

export default [
  index("routes/home.ts"),
  route("health", "routes/health.ts"),
  route("name", "routes/name.ts"),
  route("search", "routes/search.tsx"),
  route("plan.schema.json", "routes/plan-schema.ts"),
  route("plans", "routes/plans.tsx"),
  // The pages of a plan, in one frame.
  route("plans/:plan", "routes/plan.tsx", [
    index("routes/plan-home.ts"),
    route("exchange", "routes/exchange.tsx", [
      index("routes/exchange/files.tsx"),
      route("devices", "routes/exchange/devices.tsx"),
      route("drift", "routes/exchange/drift.tsx"),
      route("out", "routes/exchange/out.tsx"),
    ]),
    route("map", "routes/map.tsx"),
    route("findings", "routes/findings.tsx"),
    route("routes", "routes/routes.tsx"),
    route("devices/:device", "routes/device.tsx"),
    route("desk", "routes/desk.tsx"),
    route("summaries", "routes/summaries.tsx"),
    route("paths", "routes/paths.tsx"),
    route("outages", "routes/outages.tsx"),
    route("time", "routes/time.tsx"),
    route("report", "routes/report.tsx"),
    route("changes", "routes/changes.tsx"),
  ]),
  // What those pages ask the server for.
  route("plans/:plan/ask", "routes/ask.ts"),
  route("plans/:plan/edit", "routes/edit.ts"),
  route("plans/:plan/readings", "routes/readings.ts"),
  route("plans/:plan/reading-notices", "routes/reading-notices.ts"),
  route("plans/:plan/out", "routes/out.ts"),
  route("plans/:plan/sheet", "routes/plan-sheet.ts"),
  route("plans/:plan/head", "routes/head.ts"),
  route("plans/:plan/document", "routes/document.ts"),
  route("plans/:plan/sweeps", "routes/sweeps.ts"),
  route("plans/:plan/sweeps/:sweep", "routes/sweep.ts"),
  route("plans/:plan/sweeps/:sweep/events", "routes/sweep-events.ts"),
  route("plans/:plan/layout", "routes/layout.ts"),
] satisfies RouteConfig;
