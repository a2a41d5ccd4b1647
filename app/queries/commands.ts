import type { Suggestion } from "../search/suggestion.ts";

interface Command {
  /** Its name, and other words that find it. */
  label: string;
  also: string;
  detail: string;
  page: Suggestion["page"];
  params?: Record<string, string>;
}

/** Every page of a plan and what can be begun there, to be reached from the question field. */
export const commands: readonly Command[] = [
  {
    label: "Import",
    also: "import read files devices facts take in",
    detail: "import device output and lists",
    page: "import",
  },
  { label: "Network", also: "map drawing topology", detail: "map", page: "map" },
  {
    label: "Findings",
    also: "errors problems warnings check",
    detail: "problems and fixes",
    page: "findings",
  },
  { label: "Routes", also: "table rib fib", detail: "all routes of the network", page: "routes" },
  {
    label: "Unusable routes",
    also: "routes",
    detail: "on Routes",
    page: "routes",
    params: { state: "unusable" },
  },
  {
    label: "Add routes",
    also: "write add static default",
    detail: "on one or several devices",
    page: "add-routes",
  },
  {
    label: "Summaries",
    also: "summarise aggregate shorter",
    detail: "combine routes",
    page: "summaries",
  },
  { label: "Paths", also: "flows trace ping", detail: "forward and return path, hop by hop", page: "paths" },
  {
    label: "Several senders and destinations",
    also: "grid paths",
    detail: "on Paths",
    page: "paths",
    params: { grid: "" },
  },
  {
    label: "Failure matrix",
    also: "board outages breaks gateway",
    detail: "gateway per flow and failure",
    page: "failures",
  },
  {
    label: "Two failures at once",
    also: "outages depth board",
    detail: "on Failures",
    page: "failures",
    params: { depth: "2" },
  },
  {
    label: "Outage timeline",
    also: "timeline convergence how long gap",
    detail: "duration and recovery",
    page: "timeline",
  },
  {
    label: "Failure report",
    also: "print sheet",
    detail: "result of each failure, to print",
    page: "failure-report",
  },
  {
    label: "Changes",
    also: "draft history approve undo revisions",
    detail: "draft, rollout order, history",
    page: "changes",
  },
  {
    label: "Edit the network",
    also: "devices links add",
    detail: "beside map",
    page: "map",
    params: { edit: "" },
  },
  {
    label: "Add device",
    also: "new router firewall host",
    detail: "on Network",
    page: "map",
    params: { edit: "new:device" },
  },
  {
    label: "Add link",
    also: "new cable join connect",
    detail: "on Network",
    page: "map",
    params: { edit: "new:link" },
  },
  { label: "Add flow", also: "new", detail: "on Network", page: "map", params: { edit: "new:flow" } },
  {
    label: "Add gateway",
    also: "new exit",
    detail: "on Network",
    page: "map",
    params: { edit: "new:gateway" },
  },
  {
    label: "Add profile",
    also: "new behaves",
    detail: "on Network",
    page: "map",
    params: { edit: "new:profile" },
  },
  {
    label: "Paste a list of interfaces",
    also: "import addresses",
    detail: "on Network",
    page: "map",
    params: { edit: "new:list" },
  },
];

/** The commands that a text means: those whose name begins so first, then those that are found by another word. */
export function commandsFor(lower: string): Suggestion[] {
  const words = lower.split(/\s+/);
  const found = (text: string) =>
    words.every((word) =>
      text
        .toLowerCase()
        .split(/\s+/)
        .some((own) => own.startsWith(word)),
    );
  const byName = commands.filter(({ label }) => found(label));
  const byOther = commands.filter(
    (command) => !byName.includes(command) && found(`${command.label} ${command.also}`),
  );
  return [...byName, ...byOther].map(({ label, detail, page, params = {} }) => ({
    label,
    detail,
    page,
    params,
  }));
}
