import { movedPages } from "./moved-pages.ts";
import type { Role } from "./roles.ts";

/** What a request needs: a role, nothing but being signed in, or not even that. */
export type Need = Role | "signed in" | "anyone";

interface Entry {
  /** With :plan if the role in that plan counts, :secret for parts that are never shown, :x for other parts. */
  readonly path: string;
  /** GET and HEAD; null if they are not supported. */
  readonly get: Need | null;
  readonly post: Need | null;
}

/** Every answered address with its required permission; other addresses are not answered. Forms with several actions
 * check stricter ones themselves (`may` in actor.ts). */
export const needs: readonly Entry[] = [
  { path: "/health", get: "anyone", post: null },
  { path: "/ready", get: "anyone", post: null },
  { path: "/metrics", get: "administers", post: null },
  { path: "/plan.schema.json", get: "anyone", post: null },
  { path: "/api/v1/openapi.json", get: "anyone", post: null },
  { path: "/sign-in", get: "anyone", post: "anyone" },
  { path: "/sign-in/passkey", get: null, post: "anyone" },
  { path: "/sign-in/provider", get: "anyone", post: null },
  { path: "/sign-in/provider/back", get: "anyone", post: null },
  { path: "/invitation/:secret", get: "anyone", post: "anyone" },
  { path: "/sign-out", get: null, post: "signed in" },
  { path: "/account", get: "signed in", post: "signed in" },
  { path: "/account/passkey", get: null, post: "signed in" },
  { path: "/accounts", get: "administers", post: "administers" },
  { path: "/audit-log", get: "administers", post: null },
  { path: "/audit-log/rows", get: "administers", post: null },
  { path: "/", get: "signed in", post: null },
  { path: "/name", get: "signed in", post: "signed in" },
  { path: "/search", get: "signed in", post: null },
  { path: "/plans", get: "signed in", post: "signed in" },
  ...Object.keys(movedPages).map((path) => ({
    path,
    get: path.startsWith("/plans/") ? ("reads" as const) : ("administers" as const),
    post: null,
  })),
  { path: "/plans/:plan", get: "reads", post: null },
  { path: "/plans/:plan/import", get: "reads", post: null },
  { path: "/plans/:plan/topology", get: "reads", post: null },
  { path: "/plans/:plan/polling", get: "reads", post: "edits" },
  { path: "/plans/:plan/drift", get: "reads", post: "edits" },
  { path: "/plans/:plan/export", get: "reads", post: null },
  { path: "/plans/:plan/map", get: "reads", post: null },
  { path: "/plans/:plan/findings", get: "reads", post: null },
  { path: "/plans/:plan/routes", get: "reads", post: null },
  { path: "/plans/:plan/devices/:x", get: "reads", post: null },
  { path: "/plans/:plan/add-routes", get: "reads", post: null },
  { path: "/plans/:plan/summaries", get: "reads", post: null },
  { path: "/plans/:plan/paths", get: "reads", post: null },
  { path: "/plans/:plan/failures", get: "reads", post: null },
  { path: "/plans/:plan/timeline", get: "reads", post: null },
  { path: "/plans/:plan/failure-report", get: "reads", post: null },
  { path: "/plans/:plan/changes", get: "reads", post: "edits" },
  { path: "/plans/:plan/changes/templates", get: "reads", post: "edits" },
  { path: "/plans/:plan/changes/:x", get: "reads", post: "edits" },
  { path: "/plans/:plan/changes/:x/out", get: "reads", post: null },
  { path: "/plans/:plan/changes/:x/events", get: "reads", post: null },
  { path: "/plans/:plan/ask", get: "reads", post: null },
  { path: "/plans/:plan/edit", get: "reads", post: "edits" },
  { path: "/plans/:plan/readings", get: "reads", post: "edits" },
  { path: "/plans/:plan/archive", get: "reads", post: "edits" },
  { path: "/plans/:plan/layouts", get: "reads", post: "edits" },
  { path: "/plans/:plan/reading-notices", get: "reads", post: null },
  { path: "/plans/:plan/network-report", get: "reads", post: null },
  { path: "/plans/:plan/out", get: "reads", post: null },
  { path: "/plans/:plan/sheet", get: "reads", post: null },
  { path: "/plans/:plan/head", get: "reads", post: null },
  { path: "/plans/:plan/document", get: "reads", post: null },
  // Working something out changes nothing.
  { path: "/plans/:plan/sweeps", get: "reads", post: "reads" },
  { path: "/plans/:plan/sweeps/:x", get: "reads", post: "reads" },
  { path: "/plans/:plan/sweeps/:x/events", get: "reads", post: null },
  // It takes a machine for minutes.
  { path: "/plans/:plan/rehearsals", get: "reads", post: "edits" },
  { path: "/plans/:plan/layout", get: "reads", post: null },
  { path: "/plans/:plan/map-data", get: "reads", post: null },
  { path: "/api/v1/plans", get: "signed in", post: "edits" },
  { path: "/api/v1/plans/:plan", get: "reads", post: null },
  { path: "/api/v1/plans/:plan/revisions", get: "reads", post: null },
  { path: "/api/v1/plans/:plan/revisions/:x", get: "reads", post: null },
  { path: "/api/v1/plans/:plan/edits", get: null, post: "edits" },
  { path: "/api/v1/plans/:plan/ask/:x", get: "reads", post: null },
  { path: "/api/v1/plans/:plan/changes", get: "reads", post: "edits" },
  { path: "/api/v1/plans/:plan/changes/:x", get: "reads", post: null },
  { path: "/api/v1/plans/:plan/changes/:x/approval", get: null, post: "approves" },
  { path: "/api/v1/plans/:plan/changes/:x/ticks", get: null, post: "edits" },
  { path: "/api/v1/plans/:plan/runs", get: "reads", post: "edits" },
  { path: "/api/v1/plans/:plan/facts", get: "reads", post: "edits" },
  { path: "/api/v1/plans/:plan/webhooks", get: "administers", post: "administers" },
  { path: "/api/v1/plans/:plan/webhooks/:x/removal", get: null, post: "administers" },
];

/** What a request needs, and the plan whose roles count. */
export interface Needed {
  readonly need: Need;
  readonly plan: string | null;
  /** The address as the table has it. */
  readonly path: string;
}

const patterns = needs.map((entry) => ({
  entry,
  pattern: new RegExp(
    `^${entry.path
      .replaceAll(".", "\\.")
      .replace(":plan", "(?<plan>[^/]+)")
      .replace(/:(?:x|secret)/g, "[^/]+")}$`,
  ),
}));

/** The required permission of a request; null if its address is not answered.
 * @param path in normal form (`addressOf`), as used for the answer */
export function neededFor(method: string, path: string): Needed | null {
  const plain = plainPath(path);
  for (const { entry, pattern } of patterns) {
    const match = pattern.exec(plain);
    if (!match) continue;
    const need = method === "POST" ? entry.post : entry.get;
    // A plan is written in one way only: another would be looked up under a role that is not for it.
    if (match.groups?.plan !== undefined && !/^[1-9]\d{0,17}$/.test(match.groups.plan)) return null;
    return need === null ? null : { need, plan: match.groups?.plan ?? null, path: entry.path };
  }
  return null;
}

/** An address without what the pages' own fetching adds to it, and without a slash at its end. */
function plainPath(path: string): string {
  const whole = path.replace(/\/$/, "") || "/";
  if (whole === "/_root.data" || whole === "/_.data") return "/";
  return whole.replace(/(?:\/_)?\.data$/, "") || "/";
}

/** The part of a path that logs and the audit log may hold: one-time links stand in it, and are good as they are. */
export function shownPath(path: string): string {
  return path.slice(0, 300).replace(/^(\/+invitation\/).+$/i, "$1…");
}
