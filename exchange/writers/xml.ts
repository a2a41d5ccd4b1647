const NAMESPACE = "urn:ietf:params:xml:ns:yang:";
/** Modules whose identities occur in values: their prefix is declared there. */
const IDENTITIES = /^(iana-if-type|ietf-routing|ietf-vrrp):/;

/** A text without the characters that XML cannot hold at all (XML 1.0, 2.2). */
export function xmlText(text: string): string {
  return text.replaceAll(/[^\t\n\r\u0020-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]/gu, "");
}

const escaped = (text: string) =>
  xmlText(text).replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;");

function element(name: string, value: unknown, indent: string): string {
  const colon = name.indexOf(":");
  const [module, local] = colon < 0 ? ["", name] : [name.slice(0, colon), name.slice(colon + 1)];
  const namespace = module === "" ? "" : ` xmlns="${NAMESPACE}${module}"`;
  if (Array.isArray(value)) return value.map((entry) => element(name, entry, indent)).join("");
  if (typeof value !== "object" || value === null) {
    const text = String(value);
    const of = IDENTITIES.exec(text)?.[1];
    const declared = of ? ` xmlns:${of}="${NAMESPACE}${of}"` : "";
    return `${indent}<${local}${namespace}${declared}>${escaped(text)}</${local}>\n`;
  }
  const children = Object.entries(value)
    .map(([key, child]) => element(key, child, `${indent}  `))
    .join("");
  return `${indent}<${local}${namespace}>\n${children}${indent}</${local}>\n`;
}

/** A datastore as XML: members that name a module begin its namespace. */
export function formatXml(datastore: Readonly<Record<string, unknown>>): string {
  const children = Object.entries(datastore)
    .map(([name, value]) => element(name, value, "  "))
    .join("");
  return `<?xml version="1.0" encoding="UTF-8"?>\n<data xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">\n${children}</data>\n`;
}

/** An element of an edited configuration: its content and its operation. */
export interface XmlNode {
  /** Tells it from its siblings. */
  readonly id?: string;
  readonly name: string;
  /** A NETCONF operation (RFC 6241, section 7.2); without one, the element only contains its children. */
  operation?: string;
  value?: Readonly<Record<string, unknown>>;
  readonly children: XmlNode[];
}

const BASE = "urn:ietf:params:xml:ns:netconf:base:1.0";

/** A `config` element, as edit-config takes it. */
export function formatConfig(root: XmlNode): string {
  return `<config xmlns="${BASE}" xmlns:nc="${BASE}">\n${root.children.map((child) => nodeText(child, "  ")).join("")}</config>\n`;
}

function nodeText({ name, operation, value = {}, children }: XmlNode, indent: string): string {
  const colon = name.indexOf(":");
  const local = name.slice(colon + 1);
  const namespace = colon < 0 ? "" : ` xmlns="${NAMESPACE}${name.slice(0, colon)}"`;
  const doing = operation ? ` nc:operation="${operation}"` : "";
  const inner = [
    ...Object.entries(value).map(([key, child]) => element(key, child, `${indent}  `)),
    ...children.map((child) => nodeText(child, `${indent}  `)),
  ].join("");
  if (inner === "") return `${indent}<${local}${namespace}${doing}/>\n`;
  return `${indent}<${local}${namespace}${doing}>\n${inner}${indent}</${local}>\n`;
}
