import type { Plan } from "./plan.ts";

/** A reference to what can fail, taken apart. A device id has no slash, so the first one divides. */
export type Element =
  | { kind: "link"; id: string }
  /** A link in the direction towards one of its devices (rule 2.6). */
  | { kind: "direction"; link: string; device: string }
  | { kind: "device"; id: string }
  | { kind: "interface"; device: string; name: string }
  | { kind: "watch"; device: string; id: string }
  | { kind: "risk"; id: string }
  | { kind: "site"; id: string };

/** Reads link:ID, link:ID@DEVICE, interface:DEVICE/NAME, device:ID, watch:DEVICE/ID, risk:ID or site:NAME; null for anything else. */
export function parseElement(text: string): Element | null {
  const colon = text.indexOf(":");
  const kind = text.slice(0, colon);
  const rest = text.slice(colon + 1);
  if (colon < 0 || rest === "") return null;
  const at = rest.indexOf("@");
  if (kind === "link" && at > 0 && at < rest.length - 1)
    return { kind: "direction", link: rest.slice(0, at), device: rest.slice(at + 1) };
  if (kind === "link" || kind === "device" || kind === "risk" || kind === "site") return { kind, id: rest };
  const end = parseEnd(rest);
  if (!end) return null;
  if (kind === "interface") return { kind, ...end };
  return kind === "watch" ? { kind, device: end.device, id: end.name } : null;
}

/** Reads device/interface. */
export function parseEnd(text: string): { device: string; name: string } | null {
  const slash = text.indexOf("/");
  if (slash <= 0 || slash === text.length - 1) return null;
  return { device: text.slice(0, slash), name: text.slice(slash + 1) };
}

/** The devices that a link joins, each once. */
export function devicesOn({ ends }: Pick<Plan["links"][number], "ends">): string[] {
  return [...new Set(ends.flatMap((end) => parseEnd(end)?.device ?? []))];
}

/** The sites that a plan's devices name, in their order. */
export function sitesOf({ devices }: Pick<Plan, "devices">): string[] {
  return [...new Set(devices.flatMap(({ site }) => site ?? []))];
}

/** References to all link directions that can fail separately (rule 2.6). */
export function directionRefs({ links }: Pick<Plan, "links">): string[] {
  return links.flatMap((link) => devicesOn(link).map((device) => `link:${link.id}@${device}`));
}

/** References of all that can fail in a plan as a whole: links, devices, interfaces, watches, risks, sites. */
export function elementRefs(plan: Pick<Plan, "links" | "devices" | "risks">): string[] {
  const { links, devices, risks } = plan;
  return [
    ...links.map((link) => `link:${link.id}`),
    ...devices.map((device) => `device:${device.id}`),
    ...devices.flatMap((device) => device.interfaces.map((port) => `interface:${device.id}/${port.name}`)),
    ...devices.flatMap((device) => device.watches.map((watch) => `watch:${device.id}/${watch.id}`)),
    ...risks.map((risk) => `risk:${risk.id}`),
    ...sitesOf(plan).map((site) => `site:${site}`),
  ];
}
