import { parseElement } from "../../core/plan/index.ts";

/** What people call things, by id. */
export interface Labels {
  devices: ReadonlyMap<string, string>;
  flows: ReadonlyMap<string, string>;
  links: ReadonlyMap<string, string>;
  gateways: ReadonlyMap<string, string>;
  /** By reference: risk:ID, site:NAME. */
  fates: ReadonlyMap<string, string>;
}

/** A stretch of a sentence: plain text, a device, something else with a name, or an address. */
export type Part =
  | { kind: "text" | "name"; text: string }
  | { kind: "device"; text: string; device: string }
  | { kind: "address"; text: string; device: string | undefined };

const element = /(?<![\w/-])(?:link|interface|device|watch|risk|site):[^\s,;()]+/;
const address =
  /(?<![\w:.])(?:\d{1,3}(?:\.\d{1,3}){3}(?:\/\d{1,2})?|[0-9a-f]{0,4}(?::[0-9a-f]{0,4}){2,7}(?:\/\d{1,3})?)(?![\w:])/;
const flow = /\bflow [a-z0-9][a-z0-9-]*/;
const carriers = /\bcarried by [a-z0-9][\w/-]*(?:, [a-z0-9][\w/-]*)*/;
const carrier = /\bthe (?:gateway|link) [a-z0-9][\w/-]*/;
const end = /(?<![a-z0-9-])[a-z0-9][a-z0-9-]*\/[A-Za-z0-9][A-Za-z0-9._:-]*/;
const word = /[a-z0-9][a-z0-9-]*/;
const token = new RegExp(
  [element, address, carriers, flow, carrier, end, word].map(({ source }) => `(${source})`).join("|"),
  "gi",
);

/** What people call an element that can fail: "North fibre ring", "Office firewall outside", "watch far-a of Skerry edge". */
export function elementLabel(ref: string, labels: Labels): string {
  const parsed = parseElement(ref);
  const device = (id: string) => labels.devices.get(id) ?? id;
  switch (parsed?.kind) {
    case "link":
      return labels.links.get(parsed.id) ?? parsed.id;
    case "direction":
      return `${labels.links.get(parsed.link) ?? parsed.link} towards ${device(parsed.device)}`;
    case "device":
      return device(parsed.id);
    case "interface":
      return `${device(parsed.device)} ${parsed.name}`;
    case "watch":
      return `watch ${parsed.id} of ${device(parsed.device)}`;
    case "risk":
      return labels.fates.get(ref) ?? parsed.id;
    case "site":
      return `all of ${parsed.id}`;
    default:
      return ref;
  }
}

/** An engine's sentence with ids replaced by labels. Addresses link to the device named last before them, or `here`. */
export function partsOf(text: string, labels: Labels, here?: string): Part[] {
  const parts: Part[] = [];
  let last = here;
  let at = 0;
  const put = (index: number, length: number, part: Part) => {
    if (index > at) parts.push({ kind: "text", text: text.slice(at, index) });
    parts.push(part);
    at = index + length;
  };
  const gateway = (id: string) => labels.gateways.get(id) ?? id;
  for (const match of text.matchAll(token)) {
    const [whole, asElement, asAddress, asCarriers, asFlow, asCarrier, asEnd, asWord] = match;
    const { index } = match;
    if (asElement) {
      put(index, whole.length, { kind: "name", text: elementLabel(asElement, labels) });
    } else if (asCarriers) {
      const names = asCarriers.slice("carried by ".length).split(", ").map(gateway);
      put(index, whole.length, { kind: "text", text: `carried by ${names.join(", ")}` });
    } else if (asFlow) {
      const label = labels.flows.get(asFlow.slice("flow ".length));
      if (label !== undefined) put(index, whole.length, { kind: "name", text: label });
    } else if (asCarrier) {
      const [the, kind, id] = asCarrier.split(" ");
      const label = (kind === "link" ? labels.links : labels.gateways).get(id);
      if (label !== undefined) put(index, whole.length, { kind: "text", text: `${the} ${kind} ${label}` });
    } else if (asEnd) {
      const slash = asEnd.indexOf("/");
      const label = labels.devices.get(asEnd.slice(0, slash));
      if (label !== undefined) {
        last = asEnd.slice(0, slash);
        put(index, whole.length, { kind: "name", text: `${label} ${asEnd.slice(slash + 1)}` });
      }
    } else if (asWord) {
      const label = labels.devices.get(asWord);
      if (label === undefined) continue;
      last = asWord;
      put(index, whole.length, { kind: "device", text: label, device: asWord });
    } else if (asAddress) {
      if (labels.devices.has(asAddress)) continue;
      put(index, whole.length, { kind: "address", text: asAddress, device: last });
    }
  }
  if (at < text.length) parts.push({ kind: "text", text: text.slice(at) });
  return parts;
}

/** The same as plain text. */
export function plainText(text: string, labels: Labels): string {
  return partsOf(text, labels)
    .map((part) => part.text)
    .join("");
}
