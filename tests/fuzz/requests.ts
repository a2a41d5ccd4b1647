import { isWellFormed } from "../../core/plan/index.ts";
import { demoPlan } from "../support/plans.ts";
import type { Random } from "../support/random.ts";
import { anyEdit, documentText } from "./inputs.ts";
import { hostileText, mutated } from "./mutate.ts";

const demo = demoPlan("marrow-bay");

export interface FuzzedRequest {
  readonly path: string;
  readonly init: RequestInit;
}

const pages = [
  "map",
  "routes",
  "devices/tern-edge",
  "desk",
  "summaries",
  "outages",
  "time",
  "report",
  "findings",
  "paths",
  "changes",
  "changes/1",
  "changes/words",
  "changes/1/out",
  "changes/1/events",
  "ask",
  "edit",
  "head",
  "document",
  "sweeps",
  "sweeps/1",
  "layout",
  "sheet",
  "nowhere",
];
const keys = [
  "down",
  "flow",
  "from",
  "to",
  "source",
  "protocol",
  "port",
  "vrf",
  "lookup",
  "at",
  "fail",
  "heal",
  "outage",
  "q",
  "route",
  "block",
  "revision",
  "format",
  "case",
  "with",
  "depth",
  "_routes",
  "index",
  "after",
  "as",
  "args",
  "before",
  "state",
  "code",
];
const values = [
  "tickets",
  "tern-desk",
  "203.0.113.80",
  "link:tern-north",
  "device:tern-edge",
  "1",
  "0",
  "tcp",
  "yaml",
  "99999999999",
  "-1",
  "2",
  "1.2",
  "md",
  '{"depth":1}',
  '{"edit":{"changes":[]},"to":["x"]}',
];

/** A request to the application: pages with odd addresses, and malformed bodies of every kind. */
export function anyRequest(plan: string, origin: string, random: Random): FuzzedRequest {
  const id = random.chance(0.8)
    ? plan
    : random.pick(["0", "999999", "999999999999999999", "-1", "x", "%00", "1.5", "..%2f"]);
  const query = Array.from(
    { length: random.below(4) },
    () =>
      `${random.pick(keys)}=${encodeText(random.chance(0.5) ? random.pick(values) : random.pick(hostileText))}`,
  ).join("&");
  const data = random.chance(0.3) ? ".data" : "";
  if (random.chance(0.6)) {
    const path = random.chance(0.9)
      ? `/plans/${id}/${random.pick(pages)}`
      : random.pick([
          "/plans",
          "/search",
          "/",
          "/name",
          "/health",
          "/nowhere",
          "/%ff",
          "/plans//map",
          "/sign-in",
          "/sign-in/provider",
          "/sign-in/provider/back",
          "/invitation/x",
          "/account",
          "/accounts",
          "/audit-log",
          "/api/v1/plans",
          "/api/v1/openapi.json",
          `/api/v1/plans/${id}`,
          `/api/v1/plans/${id}/revisions`,
          `/api/v1/plans/${id}/ask/${random.pick(["paths", "device", "effect", "board", "gridRow", "draft", "templateTry", "timeline", "completions", "x"])}`,
          `/api/v1/plans/${id}/changes/1`,
        ]);
    return { path: `${path}${data}${query ? `?${query}` : ""}`, init: { headers: headers(origin, random) } };
  }
  const [path, body, type] = random.pick<() => [string, string, string]>([
    () => [`/plans/${id}/edit`, editBody(random), "application/json"],
    () => [
      `/plans/${id}/sweeps`,
      JSON.stringify(mutated({ revision: 1, depth: 1, down: ["link:tern-north"] }, random)),
      "application/json",
    ],
    () => [
      "/name",
      `name=${encodeText(random.pick(hostileText))}&back=${encodeText(random.pick(hostileText))}`,
      "application/x-www-form-urlencoded",
    ],
    () => [
      "/plans",
      multipart({
        do: random.pick(["read", "new", "delete", ""]),
        text: random.chance(0.3) ? documentText(random) : random.pick(hostileText),
        name: random.pick(hostileText),
        plan: random.pick(["999999", "x", ""]),
      }),
      "multipart/form-data; boundary=fuzz",
    ],
    () =>
      form(`/plans/${id}/changes`, {
        do: random.pick(["approve", "propose", "bring-back", "four-eyes", "", random.pick(hostileText)]),
        revision: odd(random),
        title: odd(random),
        reason: random.pick(hostileText),
        windowFrom: random.pick(["2027-03-05 22:00", "2027-13-45 99:99", odd(random), ""]),
        windowTo: random.pick(["2026-03-05 22:00", ""]),
        replaces: odd(random),
        on: "no",
      }),
    () =>
      form(`/plans/${id}/changes/${random.pick(["1", "0", "99999", "x", "%00"])}`, {
        do: random.pick([
          "approve",
          "tick",
          "untick",
          "turn back",
          "go on",
          "rewrite",
          "done",
          "turned back",
          "withdraw",
          odd(random),
        ]),
        item: random.pick(["v1.s1", "v1.before", "v0.s0", "v99999999999.s1", odd(random)]),
        title: odd(random),
      }),
    () =>
      form(`/plans/${id}/changes/templates`, {
        profile: random.pick(["classic-router", odd(random)]),
        source: random.pick([
          "{{ sentence }}",
          "{% for i in (1..100000000) %}x{% endfor %}",
          "{{",
          odd(random),
        ]),
      }),
    () =>
      form("/account", {
        do: random.pick(["token", "revoke", "password", "drop passkey", "end sign-in", odd(random)]),
        name: odd(random),
        role: random.pick(["reads", "king", odd(random)]),
        days: random.pick(["1", "-1", "1e9", odd(random)]),
        token: odd(random),
      }),
    // Without an account made: with the first, everybody would have to sign in.
    () =>
      form("/accounts", {
        do: random.pick(["role", "disable", "link", "plan role", "restore", odd(random)]),
        account: odd(random),
        role: random.pick(["reads", odd(random)]),
        plan: odd(random),
      }),
    () => form("/sign-in", { name: odd(random), password: odd(random), to: odd(random) }),
    () => form(`/invitation/${encodeText(odd(random))}`, { password: odd(random), again: odd(random) }),
    () => [
      "/sign-in/passkey",
      json({ do: "answer", response: { id: odd(random), response: {} } }, random),
      "application/json",
    ],
    () => ["/api/v1/plans", json({ document: {} }, random), "application/json"],
    () => [`/api/v1/plans/${id}/edits`, editBody(random), "application/json"],
    () => [`/api/v1/plans/${id}/changes`, json({ title: "x", windowFrom: null }, random), "application/json"],
    () => [`/api/v1/plans/${id}/facts`, json({ facts: [{ device: "x" }] }, random), "application/json"],
    () => [`/plans/${id}/map`, "x=1", "application/x-www-form-urlencoded"],
  ])();
  const cut = random.chance(0.2) ? body.slice(0, random.below(body.length + 1)) : body;
  const kind = random.chance(0.15)
    ? random.pick([
        "text/plain",
        "application/json",
        "multipart/form-data",
        "",
        "multipart/form-data; boundary=fuzz",
      ])
    : type;
  return {
    path: `${path}${data}`,
    init: {
      method: random.chance(0.95) ? "POST" : random.pick(["PUT", "DELETE", "PATCH", "OPTIONS"]),
      headers: { ...headers(origin, random), "Content-Type": kind },
      body: cut,
    },
  };
}

function form(path: string, fields: Record<string, string>): [string, string, string] {
  const body = Object.entries(fields).map(([name, value]) => `${name}=${encodeText(value)}`);
  return [path, body.join("&"), "application/x-www-form-urlencoded"];
}

const json = (value: object, random: Random) =>
  JSON.stringify(random.chance(0.7) ? mutated(value, random) : value);

const odd = (random: Random) => random.pick(random.chance(0.4) ? values : hostileText);

function editBody(random: Random): string {
  const edit = anyEdit(demo, random);
  const body = random.pick<unknown>([
    { do: "edit", base: 1, edit },
    { do: "undo", base: 1 },
    { do: "redo", base: 1 },
    mutated({ do: "edit", base: 1, edit }, random),
  ]);
  return random.chance(0.05) ? "[".repeat(50_000) : JSON.stringify(body);
}

function headers(origin: string, random: Random): Record<string, string> {
  return {
    Origin: random.chance(0.95) ? origin : "http://evil.example",
    ...(random.chance(0.1)
      ? { Cookie: `iron-fork=${encodeText(random.pick(hostileText)).slice(0, 500)}` }
      : {}),
    ...(random.chance(0.2) ? { Accept: random.pick(["text/html", "application/json", "*/*", "x"]) } : {}),
  };
}

function multipart(fields: Record<string, string>): string {
  return `${Object.entries(fields)
    .map(([name, value]) => `--fuzz\r\nContent-Disposition: form-data; name="${name}"\r\n\r\n${value}\r\n`)
    .join("")}--fuzz--\r\n`;
}

function encodeText(text: string): string {
  // Halves of characters cannot be encoded; they go as the bytes that some clients send for them.
  return isWellFormed(text.slice(0, 1500)) ? encodeURIComponent(text.slice(0, 1500)) : "%ED%A0%80";
}
