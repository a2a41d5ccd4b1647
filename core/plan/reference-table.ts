import { formatZonedAddress, parseAddress, parseZonedAddress } from "../address/index.ts";
import type { Device } from "./device.ts";
import { parseElement, parseEnd } from "./elements.ts";
import type { Flow, Pair, Plan } from "./plan.ts";

/** What can be named: `of` is the device that it belongs to. A joint is a link's ends on a device. */
export type Target =
  | {
      readonly kind: "device" | "link" | "gateway" | "profile" | "risk" | "pair" | "site";
      readonly name: string;
    }
  | { readonly kind: "interface" | "watch" | "zone" | "joint"; readonly of: string; readonly name: string };

type TargetKind = Target["kind"];

/** A text of the plan, parsed: the names it contains, and a function that writes it with other names in the same order.
 * */
export interface Named {
  readonly targets: readonly Target[];
  write(names: readonly string[]): string;
}

/** The item of the plan's own collections that holds a reference. */
type Owner = object;

/** How a reference is written. */
type Form = (text: string, owner: Owner) => Named;

const single =
  (kind: "device" | "link" | "gateway" | "profile" | "risk" | "pair"): Form =>
  (text) => ({ targets: [{ kind, name: text }], write: ([name]) => name });

const ofDevice =
  (kind: "interface" | "watch" | "zone"): Form =>
  (text, owner) => ({ targets: [{ kind, of: (owner as Device).id, name: text }], write: ([name]) => name });

const nothing = (text: string): Named => ({ targets: [], write: () => text });

/** "gw/eth0". */
const end: Form = (text) => {
  const parsed = parseEnd(text);
  if (!parsed) return { targets: [{ kind: "device", name: text }], write: ([name]) => name };
  const { device, name } = parsed;
  return {
    targets: [
      { kind: "device", name: device },
      { kind: "interface", of: device, name },
    ],
    write: (names) => names.join("/"),
  };
};

const endOrDevice: Form = (text, owner) =>
  text.includes("/") ? end(text, owner) : forms.device(text, owner);

/** An address that may name an interface of a device, such as fe80::2%wan1; null for other text. */
function zonedOn(text: string, device: string): Named | null {
  const zoned = parseZonedAddress(text);
  if (!zoned) return null;
  if (!zoned.zone) return nothing(text);
  return {
    targets: [{ kind: "interface", of: device, name: zoned.zone }],
    write: ([zone]) => formatZonedAddress({ ...zoned, zone }),
  };
}

/** "link:wan", "interface:gw/eth0" and the other elements that can fail. */
const element: Form = (text) => {
  const parsed = parseElement(text);
  if (!parsed) return nothing(text);
  switch (parsed.kind) {
    case "direction": {
      const { link, device } = parsed;
      return {
        targets: [
          { kind: "link", name: link },
          { kind: "device", name: device },
          { kind: "joint", of: device, name: link },
        ],
        write: ([linkName, deviceName]) => `link:${linkName}@${deviceName}`,
      };
    }
    case "interface":
    case "watch": {
      const name = parsed.kind === "watch" ? parsed.id : parsed.name;
      return {
        targets: [
          { kind: "device", name: parsed.device },
          { kind: parsed.kind, of: parsed.device, name },
        ],
        write: (names) => `${parsed.kind}:${names.join("/")}`,
      };
    }
    default:
      return {
        targets: [{ kind: parsed.kind, name: parsed.id }],
        write: ([name]) => `${parsed.kind}:${name}`,
      };
  }
};

/** An interface or a watch that both members of a pair have; it follows the first that has another name. */
const monitored: Form = (text, owner) => ({
  targets: (owner as Pair).members.flatMap((of): Target[] => [
    { kind: "interface", of, name: text },
    { kind: "watch", of, name: text },
  ]),
  write: (names) => names.find((name) => name !== text) ?? text,
});

/** How references are written: as the name of one thing, or as one of the texts below. */
type FormName =
  | Exclude<TargetKind, "site" | "joint">
  | "end"
  | "endOrDevice"
  | "element"
  | "monitored"
  | "carrier"
  | "receiver"
  | "target"
  | "source";

const forms: Record<FormName, Form> = {
  device: single("device"),
  link: single("link"),
  gateway: single("gateway"),
  profile: single("profile"),
  risk: single("risk"),
  pair: single("pair"),
  interface: ofDevice("interface"),
  watch: ofDevice("watch"),
  zone: ofDevice("zone"),
  end,
  endOrDevice,
  element,
  monitored,
  /** A gateway that the plan does not name is called by its exit. */
  carrier: (text, owner) => (text.includes("/") ? end : forms.gateway)(text, owner),
  /** The receiver of a flow: an address, or a device. */
  receiver: (text, owner) => {
    const { from } = owner as Flow;
    return zonedOn(text, parseEnd(from)?.device ?? from) ?? forms.device(text, owner);
  },
  /** The target of a probe. */
  target: (text, owner) => zonedOn(text, (owner as Device).id) ?? nothing(text),
  /** The source of a probe: an address, or an interface. */
  source: (text, owner) => (parseAddress(text) ? nothing(text) : forms.interface(text, owner)),
};

/**
 * What happens to the plan when what a text names goes:
 * - `owner`: the list item that holds the text goes too;
 * - `field`: the field is left out;
 * - `entry`: the text leaves its list;
 * - `entries`: the same, and an empty list is left out;
 * - `last`, `second`: the same, and the item that holds the list goes when fewer than one or two are left;
 * - `never`: nothing; it is not removed by the product.
 */
export type OnRemoval = "owner" | "field" | "entry" | "entries" | "last" | "second" | "never";

export interface Reference {
  readonly form: FormName;
  readonly whenGone: OnRemoval;
  /** Whether the text is the name of its item. */
  readonly isName?: true;
}

/** The document with references where it has texts that name something: a list has the node of its items. */
export type ReferenceNode =
  | Reference
  | readonly [ReferenceNode]
  | { readonly [field: string]: ReferenceNode };

const to = (form: Reference["form"], whenGone: OnRemoval): Reference => ({ form, whenGone });
const name = (form: Reference["form"]): Reference => ({ form, whenGone: "owner", isName: true });
const list = (form: Reference["form"], whenGone: OnRemoval) => [to(form, whenGone)] as const;

const route = {
  out: to("interface", "owner"),
  viaFrom: to("interface", "owner"),
  watch: to("watch", "field"),
};

/** References within a device. */
export const deviceReferences = {
  id: name("device"),
  profile: to("profile", "never"),
  interfaces: [
    {
      name: name("interface"),
      zone: to("zone", "never"),
      parent: to("interface", "owner"),
      members: list("interface", "last"),
      virtual: [{ track: [{ watch: to("watch", "owner"), interface: to("interface", "owner") }] }],
    },
  ],
  routes: [route],
  learned: [{ out: to("interface", "owner") }],
  policyTables: [{ match: { in: list("interface", "last") }, routes: [route] }],
  sourceNat: [{ out: to("interface", "owner") }],
  destNat: [{ in: list("interface", "last") }],
  marks: [{ in: list("interface", "last") }],
  policy: {
    trust: list("zone", "never"),
    rules: [{ from: list("zone", "never"), to: list("zone", "never") }],
  },
  watches: [
    {
      id: name("watch"),
      interface: to("interface", "owner"),
      out: to("interface", "owner"),
      source: to("source", "owner"),
      target: to("target", "owner"),
      of: list("watch", "last"),
    },
  ],
} as const satisfies ReferenceNode;

/** Every reference in the plan. It drives checks, renaming and removal. */
export const references = {
  profiles: [{ id: name("profile"), base: to("profile", "never") }],
  devices: [deviceReferences],
  links: [
    {
      id: name("link"),
      ends: list("end", "second"),
      hub: to("end", "field"),
      over: list("link", "entries"),
    },
  ],
  risks: [{ id: name("risk"), of: list("element", "last") }],
  pairs: [
    {
      id: name("pair"),
      members: list("device", "owner"),
      active: to("device", "owner"),
      heartbeats: list("link", "entry"),
      monitor: list("monitored", "entry"),
    },
  ],
  gateways: [{ id: name("gateway"), at: to("end", "owner") }],
  flows: [
    {
      from: to("endOrDevice", "owner"),
      to: to("receiver", "owner"),
      expect: { carriers: list("carrier", "entries"), through: list("device", "entries") },
    },
  ],
  outages: [
    {
      steps: [
        { fail: list("element", "entry"), shut: list("element", "entry"), restore: list("element", "entry") },
      ],
    },
  ],
  dismissals: [{ device: to("device", "owner") }],
} as const satisfies ReferenceNode;

/** Takes a text apart, by how its reference is written. */
export function namedBy({ form }: Reference, text: string, owner: Owner): Named {
  return forms[form](text, owner);
}

const isReference = (node: ReferenceNode): node is Reference => "whenGone" in node;
const isList = (node: ReferenceNode): node is readonly [ReferenceNode] => Array.isArray(node);

/** The item goes; of a list, the entry. */
const GONE = Symbol("gone");
/** The field is left out. */
const LEFT_OUT = Symbol("left out");

/** The new text, or null if its target is removed. */
export type Rewriting = (text: string, reference: Reference, owner: Owner) => string | null;

/** A plan with every reference and name rewritten; parts in which nothing changes are the same objects. */
export function rewritten(plan: Plan, rewrite: Rewriting): Plan {
  const after: Record<string, unknown> = { ...plan };
  for (const [collection, [node]] of Object.entries(references)) {
    const items = plan[collection as keyof typeof references] as object[];
    after[collection] = remaining(items, (item) =>
      rewrittenNode(item, node, (text, reference) => rewrite(text, reference, item)),
    );
  }
  return after as unknown as Plan;
}

type RewritingHere = (text: string, reference: Reference) => string | null;

function rewrittenNode(value: unknown, node: ReferenceNode, rewrite: RewritingHere): unknown {
  if (value === undefined || value === null) return value;
  if (isReference(node)) {
    const text = rewrite(value as string, node);
    return text ?? (node.whenGone === "field" ? LEFT_OUT : GONE);
  }
  if (isList(node)) return rewrittenList(value, node[0], rewrite);
  let after: Record<string, unknown> | null = null;
  for (const field of Object.keys(node)) {
    const before = (value as Record<string, unknown>)[field];
    const made = rewrittenNode(before, node[field], rewrite);
    if (made === GONE) return GONE;
    if (made === before) continue;
    after ??= { ...value };
    if (made === LEFT_OUT) delete after[field];
    else after[field] = made;
  }
  return after ?? value;
}

function rewrittenList(value: unknown, node: ReferenceNode, rewrite: RewritingHere): unknown {
  // A list of one may be written as its entry.
  if (!Array.isArray(value)) return rewrittenNode(value, node, rewrite);
  if (!isReference(node)) return remaining(value, (item) => rewrittenNode(item, node, rewrite));
  const { whenGone } = node;
  const left = remaining(value, (text) => rewrite(text, node) ?? GONE);
  if (left.length === value.length) return left;
  if (whenGone === "owner") return GONE;
  if (left.length < (whenGone === "second" ? 2 : whenGone === "last" ? 1 : 0)) return GONE;
  return left.length === 0 && whenGone === "entries" ? LEFT_OUT : left;
}

/** The list with rewritten items and without removed ones; the same list object if nothing changes. */
function remaining(items: readonly unknown[], make: (item: never) => unknown): readonly unknown[] {
  const made = items.map((item) => make(item as never));
  if (made.every((item, n) => item === items[n])) return items;
  return made.filter((item) => item !== GONE);
}

/** Calls for every reference in a part of the plan, with the path to its text; names of items are left out. */
export function eachReference(
  value: unknown,
  node: ReferenceNode,
  path: readonly PropertyKey[],
  call: (text: string, reference: Reference, path: PropertyKey[]) => void,
) {
  const at = [...path];
  const visit = (part: unknown, of: ReferenceNode) => {
    if (part === undefined || part === null) return;
    if (isReference(of)) {
      if (!of.isName) call(part as string, of, [...at]);
    } else if (!isList(of)) {
      for (const field in of) {
        const inner = (part as Record<string, unknown>)[field];
        if (inner === undefined) continue;
        at.push(field);
        visit(inner, of[field]);
        at.pop();
      }
    } else if (Array.isArray(part)) {
      for (let n = 0; n < part.length; n++) {
        at.push(n);
        visit(part[n], of[0]);
        at.pop();
      }
    } else visit(part, of[0]);
  };
  visit(value, node);
}
