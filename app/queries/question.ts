import { parseAddress, parsePrefix } from "../../core/address/index.ts";
import { directionRefs, elementRefs } from "../../core/plan/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { Suggestion } from "../search/suggestion.ts";
import { commandsFor } from "./commands.ts";
import { plateOf } from "./conditions.ts";

const MOST = 8;

/** Characters of a question that are read. */
const MAX_QUESTION_LENGTH = 500;

/**
 * What a text in the question field may mean: an address, "A to B", a device, a prefix, "fail X" or
 * "restore X". The best comes first. `here` is the device that is looked at, if any.
 */
export function suggest(model: Scenario, text: string, down: readonly string[], here?: string): Suggestion[] {
  const q = text.trim().slice(0, MAX_QUESTION_LENGTH);
  if (q === "") return [];
  const lower = q.toLowerCase();
  const command = /^(fail|restore)\s(.*)$/.exec(lower);
  if (command)
    return elementSuggestions(model, command[1] as "fail" | "restore", command[2].trim(), down).slice(
      0,
      MOST,
    );

  const list: Suggestion[] = [];
  const { plan } = model;
  const flows = plan.flows.filter((flow) => matches(lower, flow.id, flow.label));
  const trip = tripIn(q);
  if (flows.length === 0 && trip) list.push(...tripSuggestions(model, ...trip));
  for (const flow of flows) {
    list.push({
      label: flow.label ?? flow.id,
      detail: "path of the flow",
      page: "paths",
      params: { flow: flow.id },
    });
  }
  if (parseAddress(q) || parsePrefix(q)) list.push(...addressSuggestions(model, q, here));
  const named = plan.devices
    .filter((device) => matches(lower, device.id, device.label))
    .sort((a, b) => rankOf(lower, a.id, a.label) - rankOf(lower, b.id, b.label));
  list.push(...named.map((device) => deviceSuggestion(device, `routes of the ${device.role}`)));
  const links = elementSuggestions(model, "fail", lower, down).filter((s) => s.fail?.startsWith("link:"));
  const pages = commandsFor(lower);
  // Pages with that name are listed before links that contain the word, and after the plan's own items.
  return [...list, ...pages, ...links].slice(0, MOST);
}

/** The two ends of "A to B"; null for any other text. */
function tripIn(text: string): [string, string] | null {
  const words = text.split(/\s+/);
  const at = words.findIndex((word, n) => n > 0 && ["to", "->", "→"].includes(word));
  return at > 0 && at < words.length - 1
    ? [words.slice(0, at).join(" "), words.slice(at + 1).join(" ")]
    : null;
}

/** What an address or a prefix may be asked for: on the device that is looked at, whose it is, every route for it. */
function addressSuggestions({ plan }: Scenario, q: string, here: string | undefined): Suggestion[] {
  const owners = plan.devices.filter((device) =>
    device.interfaces.some((port) => port.addresses.some((own) => own.split("/")[0] === q)),
  );
  const onHere: Suggestion[] = here
    ? [
        {
          label: `Look up ${q} on ${here}`,
          detail: "route table",
          page: "device",
          device: here,
          params: { lookup: q },
        },
      ]
    : [];
  return [
    ...onHere,
    ...owners.map((device) => deviceSuggestion(device, `owns ${q}`)),
    { label: `Routes for ${q}`, detail: "on all devices", page: "routes", params: { find: q } },
  ];
}

function deviceSuggestion(device: { id: string; label?: string }, detail: string): Suggestion {
  return { label: device.label ?? device.id, detail, page: "device", device: device.id, params: {} };
}

function matches(lower: string, id: string, label: string | undefined): boolean {
  const words = lower.split(/\s+/);
  const hay = `${id} ${label ?? ""}`.toLowerCase();
  return words.every((word) => hay.includes(word));
}

/** The exact name goes first, then one that begins so, then the rest: 0, 1, 2. */
function rankOf(lower: string, id: string, label: string | undefined): number {
  const names = [id.toLowerCase(), (label ?? "").toLowerCase()];
  if (names.includes(lower)) return 0;
  return names.some((name) => name.startsWith(lower)) ? 1 : 2;
}

function tripSuggestions(model: Scenario, from: string, to: string): Suggestion[] {
  const { plan } = model;
  const named = (text: string) =>
    plan.devices
      .filter((d) => matches(text.toLowerCase(), d.id, d.label))
      .sort((a, b) => rankOf(text.toLowerCase(), a.id, a.label) - rankOf(text.toLowerCase(), b.id, b.label))
      .slice(0, 3);
  const senders = named(from);
  const targets = parseAddress(to) ? [{ id: to, label: to }] : named(to);
  return senders.flatMap((a) =>
    targets.map((b) => ({
      label: `${a.label ?? a.id} to ${b.label ?? b.id}`,
      detail: "forward and return path",
      page: "paths" as const,
      params: { from: a.id, to: b.id },
    })),
  );
}

function elementSuggestions(
  model: Scenario,
  action: "fail" | "restore",
  text: string,
  down: readonly string[],
): Suggestion[] {
  const { plan } = model;
  const all = [...elementRefs(plan), ...directionRefs(plan)];
  const refs = action === "restore" ? [...down] : all.filter((ref) => !down.includes(ref));
  return refs
    .map((ref) => plateOf(model, ref))
    .filter((plate) => matches(text, plate.ref, plate.label))
    .map((plate) => ({ plate, rank: rankOf(text, plate.ref.slice(plate.ref.indexOf(":") + 1), plate.label) }))
    .sort((a, b) => a.rank - b.rank)
    .map(({ plate }) => plate)
    .map((plate) => ({
      label: `${action === "fail" ? "Fail" : "Restore"} ${plate.label}`,
      detail: plate.kind,
      page: "map" as const,
      params: {},
      [action]: plate.ref,
    }));
}
