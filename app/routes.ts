import { index, type RouteConfig, route } from "@react-router/dev/routes";

export default [
  index("routes/home.ts"),
  route("health", "routes/health.ts"),
  route("name", "routes/name.ts"),
  route("search", "routes/search.tsx"),
  route("plans", "routes/plans.tsx"),
  route("plans/:plan", "routes/plan-home.ts"),
  route("plans/:plan/map", "routes/map.tsx"),
  route("plans/:plan/routes", "routes/routes.tsx"),
  route("plans/:plan/devices/:device", "routes/device.tsx"),
  route("plans/:plan/desk", "routes/desk.tsx"),
  route("plans/:plan/summaries", "routes/summaries.tsx"),
  route("plans/:plan/findings", "routes/findings.tsx"),
  route("plans/:plan/paths", "routes/paths.tsx"),
  route("plans/:plan/changes", "routes/changes.tsx"),
  route("plans/:plan/ask", "routes/ask.ts"),
  route("plans/:plan/edit", "routes/edit.ts"),
  route("plans/:plan/head", "routes/head.ts"),
  route("plans/:plan/document", "routes/document.ts"),
  route("plans/:plan/layout", "routes/layout.ts"),
] satisfies RouteConfig;
