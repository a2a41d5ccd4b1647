import type { Random } from "./random.ts";

/** A route as a device has it. */
export interface TrueRoute {
  readonly to: string;
  readonly via: string | null;
  readonly out: string | null;
  readonly source: "static" | "connected" | "local" | "ospf" | "bgp" | "rip";
  readonly distance: number;
  readonly metric: number;
  readonly discard: boolean;
  readonly vrf: string;
}

/** A text with the routes that it prints; fields that it does not print are null. */
export interface PrintedTable {
  readonly text: string;
  readonly family: string;
  readonly routes: readonly (Omit<TrueRoute, "source" | "distance" | "metric" | "discard"> & {
    readonly source: string | null;
    readonly distance: number | null;
    readonly metric: number | null;
    readonly discard: boolean;
  })[];
  /** Meanings of its words that the text itself does not explain. */
  readonly words: Readonly<Record<string, string>>;
}

interface Device {
  readonly name: string;
  readonly ports: readonly string[];
  readonly routes: readonly TrueRoute[];
}

const portStyles: readonly ((random: Random, n: number) => string)[] = [
  (_, n) => `eth${n}`,
  (_, n) => `port${n + 1}`,
  (random, n) => `ge-${random.below(3)}/0/${n}`,
  (random, n) => `te${random.below(2)}/${n}`,
  (_, n) => `Ethernet1/${n + 1}`,
  (_, n) => `vlan${100 + n}`,
  (random, n) => `xe${n}.${100 + random.below(900)}`,
  (_, n) => ["core", "lan", "dmz", "wan", "voice", "depot", "harbour", "quay"][n] ?? `zone${n}`,
  (_, n) => ["to-west", "to-east", "lan-main", "wan-a", "wan-b", "ferry-7", "mgmt", "backup-1"][n] ?? `p${n}`,
];

const hex = (n: number) => n.toString(16);

/** A device with attached networks, local addresses, static, floating, default, discard and learned routes. */
function randomDevice(random: Random): Device {
  const style = random.pick(portStyles);
  const count = 2 + random.below(5);
  const ports = Array.from({ length: count }, (_, n) => style(random, n));
  const family = random.pick(["4", "4", "4", "6", "46"]);
  const routes: TrueRoute[] = [];
  const neighbours: { via: string; out: string; is6: boolean }[] = [];
  const withLocals = random.chance(0.4);
  const add = (route: Partial<TrueRoute> & Pick<TrueRoute, "to" | "source">) =>
    routes.push({ via: null, out: null, distance: 0, metric: 0, discard: false, vrf: "main", ...route });
  const base = random.below(200) + 10;
  for (const [n, out] of ports.entries()) {
    if (family.includes("4")) {
      const net = random.pick([
        `172.${16 + (base % 16)}.${n * 4}`,
        `10.${base}.${n}`,
        `192.168.${base % 200}`.concat(""),
      ]);
      const [third, length] = net.startsWith("192.168")
        ? [`192.168.${(base + n) % 250}`, 24]
        : [net, random.pick([24, 24, 30, 25])];
      add({ to: `${third}.0/${length}`, out, source: "connected" });
      if (withLocals) add({ to: `${third}.1/32`, out, source: "local" });
      neighbours.push({ via: `${third}.2`, out, is6: false });
    }
    if (family.includes("6")) {
      add({ to: `2001:db8:${hex(base)}:${hex(n + 1)}::/64`, out, source: "connected" });
      if (withLocals) add({ to: `2001:db8:${hex(base)}:${hex(n + 1)}::1/128`, out, source: "local" });
      neighbours.push({
        via: random.chance(0.3) ? `fe80::${n + 2}` : `2001:db8:${hex(base)}:${hex(n + 1)}::2`,
        out,
        is6: true,
      });
    }
  }
  const remote = (is6: boolean, n: number) =>
    is6
      ? `2001:db8:f${hex(n)}::/${random.pick([48, 48, 56])}`
      : random.pick([
          `10.${200 + (n % 50)}.0.0/16`,
          `10.${200 + (n % 50)}.${n * 8}.0/21`,
          `172.31.${n}.0/24`,
          `203.0.113.${(n % 16) * 16}/28`,
        ]);
  const statics = 1 + random.below(8);
  for (let n = 0; n < statics; n++) {
    const { via, out, is6 } = random.pick(neighbours);
    const to = n === 0 ? (is6 ? "::/0" : "0.0.0.0/0") : remote(is6, n);
    if (routes.some((route) => route.to === to)) continue;
    if (n > 0 && random.chance(0.12)) {
      add({ to, source: "static", distance: random.pick([1, 250]), discard: true });
      continue;
    }
    add({ to, via, out, source: "static", distance: random.pick([1, 1, 5]) });
    const other = neighbours.find((one) => one.is6 === is6 && one.out !== out);
    if (other && random.chance(0.25))
      add({ to, via: other.via, out: other.out, source: "static", distance: 200 });
  }
  if (random.chance(0.5)) {
    const source = random.pick(["ospf", "bgp", "rip"] as const);
    const distance = { ospf: 110, bgp: 20, rip: 120 }[source];
    for (let n = 0; n < 2 + random.below(5); n++) {
      const { via, out, is6 } = random.pick(neighbours);
      const to = remote(is6, 20 + n);
      if (!routes.some((route) => route.to === to))
        add({ to, via, out, source, distance, metric: 20 + 10 * n });
    }
  }
  const name = `${random.pick(["tern", "gull", "skerry", "puffin", "fulmar"])}-${random.pick(["edge", "core", "gw"])}${random.pick(["", "-1", "2"])}`;
  return { name, ports, routes: random.chance(0.3) ? random.shuffled(routes) : routes };
}

type Field = "to" | "mask" | "via" | "out" | "distance" | "metric" | "source" | "age" | "flags" | "number";

const heads: Readonly<Record<Exclude<Field, "number">, readonly string[]>> = {
  to: [
    "Destination",
    "Network",
    "Prefix",
    "Dest",
    "Route",
    "Ziel",
    "Zielnetz",
    "Réseau",
    "Destino",
    "Red",
    "Rete",
    "Destinazione",
    "Rede",
    "dst",
  ],
  mask: ["Mask", "Netmask", "Genmask", "Subnet mask", "Maske", "Masque", "Máscara", "Maschera"],
  via: [
    "Gateway",
    "Next hop",
    "Nexthop",
    "NextHop",
    "Via",
    "GW",
    "Next-Hop",
    "Nächster Hop",
    "Passerelle",
    "Puerta de enlace",
    "Próximo salto",
    "Prossimo hop",
  ],
  out: [
    "Interface",
    "Iface",
    "Port",
    "If",
    "Outgoing interface",
    "Exit",
    "Schnittstelle",
    "Interfaz",
    "Interfaccia",
    "Salida",
  ],
  distance: [
    "Distance",
    "AD",
    "Dist",
    "Pref",
    "Preference",
    "Distanz",
    "Distancia",
    "Distanza",
    "Admin distance",
  ],
  metric: ["Metric", "Cost", "Met", "Metrik", "Métrique", "Métrica", "Metrica"],
  source: [
    "Source",
    "Proto",
    "Protocol",
    "Type",
    "Origin",
    "Typ",
    "Herkunft",
    "Origine",
    "Protocolo",
    "Tipo",
    "Code",
  ],
  age: ["Age", "Uptime", "Last update", "Alter", "Durée", "Since"],
  flags: ["Flags", "State", "Status"],
};

const maskOf = (length: number) =>
  [0, 8, 16, 24].map((shift) => 256 - 2 ** (8 - Math.min(8, Math.max(0, length - shift)))).join(".");

const age = (random: Random) =>
  random.pick(["00:12:33", "3d04h", "1w2d", "never", "14:02", "2h", "5m12s", "12d"]);

/** How a layout writes sources: whole words, codes with a legend, or words that it does not explain. */
interface Writing {
  readonly source: (route: TrueRoute) => string;
  readonly legend: readonly string[];
  readonly words: Record<string, string>;
}

function writingOf(device: Device, random: Random): Writing {
  const sources = [...new Set(device.routes.map(({ source }) => source))];
  const kind = random.below(3);
  if (kind === 0) {
    const direct = random.pick(["connected", "direct", "Connected", "DIRECT"]);
    return {
      source: ({ source }) =>
        source === "connected" ? direct : source === "static" ? random.pick(["static"]) : source,
      legend: [],
      words: {},
    };
  }
  const letters = random.shuffled([..."ABCDEFGHKLMNPQRSTUWXZ"]);
  const codeOf = new Map(
    sources.map((source, n) => [source, random.chance(0.1) ? `${letters[n].toLowerCase()}9` : letters[n]]),
  );
  const source = ({ source: own }: TrueRoute) => codeOf.get(own) as string;
  const words = Object.fromEntries([...codeOf].map(([own, code]) => [code, own]));
  if (kind === 1) return { source, legend: [], words };
  const extra = [
    [letters[12], "static route of a user"],
    [letters[13], "mobile"],
    ["*", "possible default"],
    ["+", "copied route"],
    ["ia", "inter area"],
  ];
  const meant = {
    static: "static",
    connected: "connected",
    local: "local",
    ospf: "OSPF",
    bgp: "BGP",
    rip: "RIP",
  };
  const sep = random.pick([" - ", " = ", ": ", "-", " – "]);
  const pairs = random.shuffled([
    ...[...codeOf].map(([own, code]) => [code, random.pick([meant[own], `${meant[own]} route`, meant[own]])]),
    ...(sep === "-" ? [] : extra.slice(0, 1 + random.below(4))),
  ]);
  const opener = random.pick(["Codes: ", "Legend: ", "Codes:", "Flags: ", "Key: "]);
  const perLine = 1 + random.below(4);
  const legend: string[] = [];
  for (let i = 0; i < pairs.length; i += perLine)
    legend.push(
      `${i === 0 ? opener : " ".repeat(opener.length)}${pairs
        .slice(i, i + perLine)
        .map(([code, words]) => `${code}${sep}${words}`)
        .join(", ")}`,
    );
  return { source, legend, words: {} };
}

const pad = (text: string, width: number, right: boolean) =>
  right ? text.padStart(width) : text.padEnd(width);

type Cells = Partial<Record<Field, string>>;

interface Print {
  readonly random: Random;
  readonly device: Device;
  readonly writing: Writing;
}

function cellsOf({ writing, random }: Print, route: TrueRoute, withMask: boolean, none: string): Cells {
  const [address, length] = route.to.split("/");
  return {
    to: withMask ? address : route.to,
    mask: maskOf(Number(length)),
    via: route.discard ? none : (route.via ?? none),
    out: route.discard ? "discard" : (route.out ?? none),
    distance: String(route.distance),
    metric: String(route.metric),
    source: writing.source(route),
    age: age(random),
    flags: "up",
  };
}

const canMask = ({ routes }: Device) => routes.every(({ to }) => !to.includes(":"));

/** The fields that a table prints, in its order. */
function fieldsOf(print: Print, withNumbers: boolean): Field[] {
  const { random, device } = print;
  const first: Field[] = random.chance(0.5) ? ["source", "to"] : ["to"];
  const mask: Field[] = canMask(device) && random.chance(0.3) ? ["mask"] : [];
  const rest: Field[] = ["via", "out"];
  if (random.chance(0.3)) rest.reverse();
  if (withNumbers)
    rest.push(...random.shuffled((["distance", "metric"] as Field[]).filter(() => random.chance(0.7))));
  if (random.chance(0.3)) rest.push("age");
  if (!first.includes("source") && random.chance(0.8)) rest.push("source");
  return [...first, ...mask, ...(random.chance(0.3) ? random.shuffled(rest) : rest)];
}

const printed = (route: TrueRoute, fields: readonly Field[]): PrintedTable["routes"][number] => ({
  ...route,
  source: fields.includes("source") ? route.source : null,
  distance: fields.includes("distance") ? route.distance : null,
  metric: fields.includes("metric") ? route.metric : null,
});

type Printed = Pick<PrintedTable, "routes"> & { lines: string[]; withoutCodes?: true };

function columnsWithHead(print: Print): Printed {
  const { random, device } = print;
  const fields = fieldsOf(print, true);
  const withMask = fields.includes("mask");
  const none = random.pick(["-", "", withMask ? "0.0.0.0" : "-", "--"]);
  const rows = device.routes.map((route) => cellsOf(print, route, withMask, none));
  const names = fields.map((field) => random.pick(heads[field as keyof typeof heads]));
  const right = fields.map((field) =>
    field === "distance" || field === "metric" ? random.chance(0.5) : random.chance(0.1),
  );
  const widths = fields.map((field, i) =>
    Math.max(names[i].length, ...rows.map((row) => (row[field] ?? "").length)),
  );
  const gap = " ".repeat(1 + random.below(3) + (none === "" ? 1 : 0));
  const line = (cells: readonly string[]) =>
    cells
      .map((cell, i) => pad(cell, widths[i], right[i]))
      .join(gap)
      .trimEnd();
  const lines = [
    line(names),
    ...(random.chance(0.5) ? [widths.map((width) => "-".repeat(width)).join(gap)] : []),
  ];
  return {
    lines: [...lines, ...rows.map((row) => line(fields.map((field) => row[field] ?? "")))],
    routes: device.routes.map((route) => printed(route, fields)),
  };
}

function separated(print: Print): Printed {
  const { random, device } = print;
  const fields = fieldsOf(print, true);
  const withMask = fields.includes("mask");
  const separator = random.pick(["|", ";", "\t", ","]);
  const none = random.pick(["-", ""]);
  const rows = device.routes.map((route) => cellsOf(print, route, withMask, none));
  const names = fields.map((field) => random.pick(heads[field as keyof typeof heads]));
  const space = separator === "|" ? " " : random.pick(["", separator === "\t" ? "" : " "]);
  const line = (cells: readonly string[]) => {
    const body = cells.join(`${space}${separator}${space}`);
    return separator === "|" ? `| ${body} |` : body;
  };
  const lines = [line(names)];
  if (separator === "|" && random.chance(0.6)) lines.push(`|${fields.map(() => "---").join("|")}|`);
  return {
    lines: [...lines, ...rows.map((row) => line(fields.map((field) => row[field] ?? "")))],
    routes: device.routes.map((route) => printed(route, fields)),
  };
}

function columnsWithoutHead(print: Print): Printed {
  const { random, device, writing } = print;
  const withPair = random.chance(0.5);
  const withMask = canMask(device) && random.chance(0.25);
  const codeFirst = random.chance(0.7);
  const withVia = random.pick(["via ", "", "-> ", "via ", "gw "]);
  const brackets = random.pick(["[]", "()", "<>"]);
  const width = Math.max(...device.routes.map(({ to }) => to.length)) + 1;
  const withAge = random.chance(0.3);
  const indent = random.pick(["", " ", "  "]);
  const lines = device.routes.map((route) => {
    const [address, length] = route.to.split("/");
    const to = withMask ? `${address.padEnd(16)}${maskOf(Number(length))}` : route.to.padEnd(width);
    const pair = withPair ? ` ${brackets[0]}${route.distance}/${route.metric}${brackets[1]}` : "";
    const hop = route.discard ? " discard" : route.via ? ` ${withVia}${route.via}` : "";
    const time = withAge ? `  ${age(random)}` : "";
    const out = route.out ? `  ${route.out}` : "";
    return codeFirst
      ? `${indent}${writing.source(route).padEnd(4)} ${to}${pair}${hop}${time}${out}`
      : `${indent}${to}${pair}${hop}${time}${out}  ${writing.source(route)}`;
  });
  const fields: Field[] = [
    "to",
    "via",
    "out",
    "source",
    ...(withPair ? (["distance", "metric"] as Field[]) : []),
  ];
  return { lines, routes: device.routes.map((route) => printed(route, fields)) };
}

function sentences(print: Print): Printed {
  const { random, device, writing } = print;
  const [reached, leaving, direct] = random.pick([
    ["is reached through", "leaving by", "is directly attached to"],
    ["via", "on", "is directly connected,"],
    ["goes to", "out of", "sits on"],
    ["next hop", "interface", "attached to interface"],
    ["über", "an", "direkt an"],
    ["par", "interface", "directement sur"],
    ["por", "interfaz", "directamente en"],
  ]);
  const withPair = random.chance(0.5);
  const lines = device.routes.map((route) => {
    const pair = withPair ? `[${route.distance}/${route.metric}] ` : "";
    const code = writing.source(route);
    if (route.discard) return `${code} ${route.to} ${pair}discard`;
    if (!route.via) return `${code} ${route.to} ${pair}${direct} ${route.out}`;
    return `${code} ${route.to} ${pair}${reached} ${route.via}, ${leaving} ${route.out}`;
  });
  const fields: Field[] = [
    "to",
    "via",
    "out",
    "source",
    ...(withPair ? (["distance", "metric"] as Field[]) : []),
  ];
  return { lines, routes: device.routes.map((route) => printed(route, fields)) };
}

function blocks(print: Print): Printed {
  const { random, device, writing } = print;
  const fields = random.shuffled(
    (["via", "out", "distance", "metric", "source", "age"] as Field[]).filter(
      (field) => field === "via" || field === "out" || random.chance(0.7),
    ),
  );
  const order: Field[] = random.chance(0.8) ? ["to", ...fields] : random.shuffled(["to", ...fields]);
  const names = Object.fromEntries(
    order.map((field) => [field, random.pick(heads[field as keyof typeof heads])]),
  );
  const mark = random.pick([":", " =", ":", " :"]);
  const indented = random.chance(0.5);
  const lines = device.routes.flatMap((route, n) => {
    const cells: Cells = { ...cellsOf(print, route, false, "-"), source: writing.source(route) };
    const body = order.map(
      (field, i) => `${indented && i > 0 ? "  " : ""}${names[field]}${mark} ${cells[field]}`,
    );
    return [...(n > 0 ? [""] : []), ...body];
  });
  return { lines, routes: device.routes.map((route) => printed(route, ["to", ...fields])) };
}

function keyValue(print: Print): Printed {
  const { random, device } = print;
  const fields = fieldsOf(print, true).filter((field) => field !== "mask");
  const names = Object.fromEntries(
    fields.map((field) => [
      field,
      random.pick(heads[field as keyof typeof heads].filter((name) => /^[A-Za-z]+$/.test(name))),
    ]),
  );
  const [mark, gap] = random.pick([
    ["=", " "],
    ["=", ", "],
    [":", " "],
    [": ", ", "],
    ["=", ";"],
  ]);
  const lines = device.routes.map((route) => {
    const cells = cellsOf(print, route, false, "");
    return fields
      .filter((field) => cells[field])
      .map((field) => `${names[field]}${mark}${cells[field]}`)
      .join(gap);
  });
  return { lines, routes: device.routes.map((route) => printed(route, fields)) };
}

function wrapped(print: Print): Printed {
  const { random, device, writing } = print;
  const withPair = random.chance(0.5);
  const comma = random.pick([",", "", " on"]);
  const via = random.pick(["via ", "next hop ", "gateway ", "-> "]);
  const lines: string[] = [];
  const done = new Set<TrueRoute>();
  for (const route of device.routes) {
    if (done.has(route)) continue;
    const same = device.routes.filter(
      (one) => one.to === route.to && one.source === route.source && !one.discard && one.via,
    );
    const ways = same.includes(route) ? same : [route];
    lines.push(`${writing.source(route).padEnd(3)} ${route.to}`);
    for (const way of ways) {
      done.add(way);
      const pair = withPair ? `[${way.distance}/${way.metric}] ` : "";
      lines.push(
        way.discard
          ? `      ${pair}discard`
          : `      ${pair}${way.via ? `${via}${way.via}${comma} ` : ""}${way.out}`,
      );
    }
  }
  const fields: Field[] = [
    "to",
    "via",
    "out",
    "source",
    ...(withPair ? (["distance", "metric"] as Field[]) : []),
  ];
  return { lines, routes: device.routes.map((route) => printed(route, fields)) };
}

function grouped(print: Print): Printed {
  const { random, device, writing } = print;
  const by = random.pick(["via", "out", "source"] as const);
  const lines: string[] = [];
  const titles = {
    static: "Static routes",
    connected: "Connected networks",
    local: "Local addresses",
    ospf: "OSPF routes",
    bgp: "BGP routes",
    rip: "RIP routes",
  };
  const keys = [
    ...new Set(device.routes.map((route) => (by === "source" ? route.source : (route[by] ?? "")))),
  ];
  for (const key of keys) {
    const own = device.routes.filter((route) => (by === "source" ? route.source : (route[by] ?? "")) === key);
    const isBare = key === "";
    if (by === "source") lines.push(`${titles[key as keyof typeof titles]}:`);
    else if (by === "via" && !isBare)
      lines.push(`${random.pick(["via", "Next hop", "Gateway"])} ${key}${random.pick(["", ":"])}`);
    else if (!isBare)
      lines.push(`${random.pick(["Interface", "Port", "out"])} ${key}${random.pick(["", ":"])}`);
    for (const route of own) {
      const source = by === "source" ? "" : `${writing.source(route)} `;
      const hop =
        by !== "via" && route.via
          ? ` via ${route.via}`
          : by === "via" && isBare && route.via
            ? ` via ${route.via}`
            : "";
      const out = by !== "out" && route.out ? ` ${random.pick(["dev", "dev"])} ${route.out}` : "";
      lines.push(`${isBare ? "" : "  "}${source}${route.to}${route.discard ? " discard" : hop}${out}`);
    }
  }
  const fields: Field[] = ["to", "via", "out", "source"];
  return { lines, routes: device.routes.map((route) => printed(route, fields)) };
}

/** Subnets below a heading that states their length. */
function dividedSubnets(print: Print): Printed {
  const { device, writing } = print;
  const lines: string[] = [];
  const parents = new Map<string, TrueRoute[]>();
  const alone: TrueRoute[] = [];
  for (const route of device.routes) {
    const [address, length] = route.to.split("/");
    const octets = address.split(".");
    if (octets.length !== 4 || Number(length) < 16 || Number(length) > 30) alone.push(route);
    else {
      const parent = `${octets[0]}.${Number(length) >= 24 && octets[0] !== "10" ? octets[1] : 0}.0.0/${length}`;
      parents.set(parent, [...(parents.get(parent) ?? []), route]);
    }
  }
  const hop = (route: TrueRoute) =>
    route.discard
      ? "discard"
      : route.via
        ? `[${route.distance}/${route.metric}] via ${route.via}, ${route.out}`
        : `is directly connected, ${route.out}`;
  for (const route of alone) lines.push(`${writing.source(route).padEnd(4)} ${route.to} ${hop(route)}`);
  for (const [parent, own] of parents) {
    lines.push(`     ${parent.replace(/\/.*/, `/${parent.split("/")[1]}`)} has ${own.length} subnets`);
    for (const route of own)
      lines.push(`${writing.source(route).padEnd(4)}    ${route.to.split("/")[0]} ${hop(route)}`);
  }
  return {
    lines,
    routes: device.routes.map((route) => ({
      ...printed(route, ["to", "via", "out", "source"]),
      ...(route.via && !route.discard ? { distance: route.distance, metric: route.metric } : {}),
    })),
  };
}

/** A destination, and each next hop with its details on a line below. */
function hopLines(print: Print): Printed {
  const { random, device, writing } = print;
  const withSource = writing.legend.length === 0 && Object.keys(writing.words).length === 0;
  const lines: string[] = [];
  const mark = random.pick(["*", ">", "", "+ "]);
  const style = random.below(2);
  for (const route of device.routes) {
    const source = writing.source(route);
    if (style === 0) {
      lines.push(`${route.to}${random.pick([", 1 path", ", paths: 1/0", ""])}`);
      const details = [
        `[${route.distance}/${route.metric}]`,
        age(random),
        ...(withSource ? [source] : []),
      ].join(", ");
      lines.push(
        `    ${mark}${route.discard ? "discard" : route.via ? `via ${route.via}, ${route.out}` : `attached, ${route.out}`}, ${details}`,
      );
    } else {
      lines.push(
        `${route.to.padEnd(22)} ${mark.trim()}[${withSource ? source : route.source}/${route.distance}] ${age(random)}`,
      );
      lines.push(
        route.discard
          ? "      discard"
          : `    ${random.pick(["> ", "  "])}${route.via ? `to ${route.via} ` : ""}via ${route.out}`,
      );
    }
  }
  return {
    lines,
    routes: device.routes.map((route) => ({
      ...printed(route, [
        "to",
        "via",
        "out",
        ...(withSource || style === 1 ? (["source"] as Field[]) : []),
        "distance",
        ...(style === 0 ? (["metric"] as Field[]) : []),
      ]),
      // The word "attached" says where such a route comes from.
      ...(style === 0 && !route.via && !route.discard && !withSource ? { source: "connected" } : {}),
    })),
  };
}

/** Rows with a number of their own, flags, and a note. */
function decorated(print: Print): Printed {
  const { random, device, writing } = print;
  const number = random.pick([
    (n: number) => `${n + 1}`,
    (n: number) => `${n + 1}.`,
    (n: number) => `#${n + 1}`,
    (n: number) => String(n + 1).padStart(3),
  ]);
  const note = random.pick(["", "", ' "to the depot"', " # via radio"]);
  const width = Math.max(...device.routes.map(({ to }) => to.length)) + 2;
  const lines = device.routes.map((route, n) => {
    const hop = route.discard ? "discard" : `${route.via ? `via ${route.via} ` : ""}dev ${route.out}`;
    return `${number(n)} ${route.to.padEnd(width)}${hop} proto ${writing.source(route)} distance ${route.distance}${route.source === "static" ? note : ""}`;
  });
  return {
    lines,
    routes: device.routes.map((route) => printed(route, ["to", "via", "out", "source", "distance"])),
  };
}

/** The classic columns of a host: network, gateway, mask, flags, counters, interface. */
function hostColumns(print: Print): Printed {
  const { random, device } = print;
  const routes = device.routes.filter(({ to, discard }) => !to.includes(":") && !discard);
  const rows = routes.map((route) => {
    const [address, length] = route.to.split("/");
    return [
      address,
      route.via ?? random.pick(["0.0.0.0", "0.0.0.0"]),
      maskOf(Number(length)),
      route.via ? "UG" : "U",
      String(route.metric),
      "0",
      String(random.below(900)),
      route.out ?? "-",
    ];
  });
  const names = ["Destination", "Gateway", "Genmask", "Flags", "Metric", "Ref", "Use", "Iface"];
  const widths = names.map((name, i) => Math.max(name.length, ...rows.map((row) => row[i].length)));
  const line = (cells: readonly string[]) =>
    cells
      .map((cell, i) => cell.padEnd(widths[i]))
      .join(" ")
      .trimEnd();
  return {
    lines: [line(names), ...rows.map(line)],
    routes: routes.map((route) => printed(route, ["to", "via", "out", "metric"])),
    withoutCodes: true,
  };
}

/** Numbers without headings: the distance by source, the metric within learned ones. */
function bareNumbers(print: Print): Printed {
  const { device, writing } = print;
  const hasLearned =
    device.routes.filter(({ source }) => !["static", "connected", "local"].includes(source)).length > 1;
  const lines = device.routes.map((route) => {
    const hop = route.discard ? "discard" : `${route.via ? `${route.via} ` : ""}${route.out}`;
    return `${writing.source(route).padEnd(5)} ${route.to.padEnd(22)} ${hasLearned ? `${String(route.distance).padStart(3)} ${String(route.metric).padStart(4)} ` : ""}${hop}`;
  });
  return {
    lines,
    routes: device.routes.map((route) =>
      printed(route, [
        "to",
        "via",
        "out",
        "source",
        ...(hasLearned ? (["distance", "metric"] as Field[]) : []),
      ]),
    ),
  };
}

/** Sections of VRFs, in which the same destinations come again. */
function vrfSections(print: Print): Printed {
  const { random, device, writing } = print;
  const head = random.pick([
    (vrf: string) => `VRF: ${vrf}`,
    (vrf: string) => `Routing table for VRF ${vrf}:`,
    (vrf: string) => `vrf ${vrf}`,
    (vrf: string) => `Routing instance: ${vrf}`,
    (vrf: string) => `IPv4 routing table, VRF name: ${vrf}`,
  ]);
  const vrfs = ["red", "blue", "guest"].slice(0, 2 + random.below(2));
  const routes: TrueRoute[] = [];
  const lines: string[] = [];
  for (const vrf of vrfs) {
    lines.push("", head(vrf), "");
    for (const route of device.routes.filter(() => random.chance(0.8))) {
      routes.push({ ...route, vrf });
      lines.push(
        `${writing.source(route).padEnd(4)} ${route.to.padEnd(20)} ${route.discard ? "discard" : `${route.via ? `via ${route.via} ` : ""}${route.out}`}`,
      );
    }
  }
  return { lines, routes: routes.map((route) => printed(route, ["to", "via", "out", "source"])) };
}

/** Long destinations whose other columns are on the next line. */
function wrappedColumns(print: Print): Printed {
  const { random, device, writing } = print;
  const width = 14 + random.below(6);
  const first = Math.max(...device.routes.map((route) => writing.source(route).length), 4) + 2;
  const lines = [`${"Code".padEnd(first)}${"Prefix".padEnd(width)}${"Next hop".padEnd(22)}Interface`];
  for (const route of device.routes) {
    const rest = `${(route.discard ? "-" : (route.via ?? "-")).padEnd(22)}${route.discard ? "discard" : route.out}`;
    const code = writing.source(route).padEnd(first);
    if (route.to.length < width) lines.push(`${code}${route.to.padEnd(width)}${rest}`);
    else lines.push(`${code}${route.to}`, `${" ".repeat(first + width)}${rest}`);
  }
  return { lines, routes: device.routes.map((route) => printed(route, ["to", "via", "out", "source"])) };
}

const families: readonly (readonly [string, (print: Print) => Printed])[] = [
  ["columns with headings", columnsWithHead],
  ["separated cells", separated],
  ["columns without headings", columnsWithoutHead],
  ["sentences", sentences],
  ["blocks", blocks],
  ["keys and values", keyValue],
  ["wrapped lines", wrapped],
  ["groups", grouped],
  ["divided subnets", dividedSubnets],
  ["lines of next hops", hopLines],
  ["numbers, notes and keys", decorated],
  ["columns of a host", hostColumns],
  ["numbers without headings", bareNumbers],
  ["sections of VRFs", vrfSections],
  ["wrapped columns", wrappedColumns],
];

/** A random device printed in a random layout, with a prompt, a legend, totals and other lines around the routes. */
export function printTable(random: Random): PrintedTable {
  const device = randomDevice(random);
  const writing = writingOf(device, random);
  const [family, print] = random.pick(families);
  const { lines, routes, withoutCodes } = print({ random, device, writing });
  const prompt = random.pick([
    `${device.name}# `,
    `${device.name}> `,
    `ann@${device.name}:~$ `,
    `[ann@${device.name} ~]$ `,
    "",
  ]);
  const command = random.pick(["show routes", "print routing table", "routes list", "display ip routing"]);
  const before: string[] = [];
  if (prompt !== "") before.push(`${prompt}${command}`);
  if (random.chance(0.2))
    before.push(
      "",
      random.pick([
        "Routing table (main), 41 entries",
        "IPv4 routes",
        "Last update 3 minutes ago",
        "Default gateway is 198.51.100.1 (network 0.0.0.0)",
        "Router ID 192.0.2.1",
      ]),
      "",
    );
  if (writing.legend.length > 0 && !withoutCodes)
    before.push(...writing.legend, ...(random.chance(0.7) ? [""] : []));
  const after: string[] = [];
  if (random.chance(0.3))
    after.push(
      "",
      random.pick([
        `Total: ${routes.length} routes`,
        `${routes.length} entries displayed`,
        "Number of routes: 12 (3 static)",
      ]),
    );
  if (prompt !== "" && random.chance(0.7)) after.push(prompt.trimEnd());
  const end = random.chance(0.15) ? "\r\n" : "\n";
  const text = [...before, ...lines, ...after].join(end);
  return {
    text: random.chance(0.05) ? text.replace(/\n/g, "\u001b[0m\n") : text,
    family,
    routes,
    words: withoutCodes ? {} : writing.words,
  };
}
