import type { Suggestion } from "../search/suggestion.ts";

interface Command {
  /** What it is called, and by which other words it is found. */
  label: string;
  also: string;
  detail: string;
  page: Suggestion["page"];
  params?: Record<string, string>;
}

/** Every page of a plan and what can be begun there, to be reached from the question field. */
export const commands: readonly Command[] = [
  {
    label: "Exchange",
    also: "import read files devices facts take in",
    detail: "what devices say comes in",
    page: "exchange",
  },
  { label: "Network", also: "map drawing topology", detail: "the map", page: "map" },
  {
    label: "Findings",
    also: "errors problems warnings check",
    detail: "what is wrong, and what would fix it",
    page: "findings",
  },
  { label: "Routes", also: "table rib fib", detail: "of the whole network", page: "routes" },
  {
    label: "Unusable routes",
    also: "routes",
    detail: "on Routes",
    page: "routes",
    params: { state: "unusable" },
  },
  {
    label: "Route editor",
    also: "write add static default",
    detail: "on one device or several",
    page: "desk",
  },
  {
    label: "Summaries",
    also: "summarise aggregate shorter",
    detail: "what can be written shorter",
    page: "summaries",
  },
  { label: "Paths", also: "flows trace ping", detail: "forward and return, hop by hop", page: "paths" },
  {
    label: "Several senders and destinations",
    also: "grid paths",
    detail: "on Paths",
    page: "paths",
    params: { grid: "" },
  },
  {
    label: "Outages",
    also: "board failures what breaks",
    detail: "which gateway carries when something fails",
    page: "outages",
  },
  {
    label: "Two failures at once",
    also: "outages depth board",
    detail: "on Outages",
    page: "outages",
    params: { depth: "2" },
  },
  {
    label: "Outage in time",
    also: "timeline convergence how long gap",
    detail: "how long, and does it recover",
    page: "time",
  },
  { label: "Report", also: "print sheet", detail: "what happens when, to print", page: "report" },
  {
    label: "Changes",
    also: "draft history approve undo revisions",
    detail: "the draft against what is approved",
    page: "changes",
  },
  {
    label: "Edit the network",
    also: "devices links add",
    detail: "beside the map",
    page: "map",
    params: { edit: "" },
  },
  {
    label: "Add a device",
    also: "new router firewall host",
    detail: "on Network",
    page: "map",
    params: { edit: "new:device" },
  },
  {
    label: "Add a link",
    also: "new cable join connect",
    detail: "on Network",
    page: "map",
    params: { edit: "new:link" },
  },
  { label: "Add a flow", also: "new", detail: "on Network", page: "map", params: { edit: "new:flow" } },
  {
    label: "Add a gateway",
    also: "new exit",
    detail: "on Network",
    page: "map",
    params: { edit: "new:gateway" },
  },
  {
    label: "Add a profile",
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
