import { bundleOf } from "../../bench/bundle.ts";
import { formatPlanError, type Plan } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { pack, UnreadableArchive, unpack } from "../../exchange/archive.ts";
import { driftOf } from "../../exchange/drift.ts";
import { editOfDrift } from "../../exchange/drift-edit.ts";
import { deviceFactsSchema } from "../../exchange/facts/index.ts";
import { type Layout, readLayout, UnreadableLayout } from "../../exchange/layout.ts";
import { type InputFile, Meanings, readerOf } from "../../exchange/readers/index.ts";
import { colourTable } from "../../exchange/readers/text/table.ts";
import { readFiles } from "../../exchange/readings.ts";
import { mergeInto } from "../../exchange/rebuild/merge.ts";
import { pictureOf } from "../../exchange/rebuild/picture.ts";
import { rebuildPlan } from "../../exchange/rebuild/plan.ts";
import { formats, writeFiles } from "../../exchange/writers/index.ts";
import { NotRead } from "../../live/failure.ts";
import { Framing } from "../../live/netconf-framing.ts";
import type { Random } from "../support/random.ts";
import { randomPlan } from "../support/random-plan.ts";
import { hostileText, mutated, mutatedBytes, mutatedText } from "./mutate.ts";

/** One text for each kind of input that has no writer of ours. */
export const samples: readonly string[] = [
  `1: lo: <LOOPBACK,UP,LOWER_UP> mtu 65536\n    inet 127.0.0.1/8 scope host lo\n2: wan1@if3: <BROADCAST,UP,LOWER_UP> mtu 1500 master red state UP\n    link/ether 02:00:00:00:00:01 brd ff:ff:ff:ff:ff:ff\n    inet 198.51.100.2/30 scope global wan1\n    inet6 fe80::1/64 scope link\n`,
  "default via 198.51.100.1 dev wan1 proto static metric 5\n10.0.0.0/8 proto bgp\n\tnexthop via 10.0.0.2 dev a weight 1\n\tnexthop via 10.0.1.2 dev b weight 1\nblackhole 10.9.0.0/16\n",
  "0:\tfrom all lookup local\n100:\tfrom 10.0.0.0/8 iif lan lookup 100\n32766:\tfrom all lookup main\n",
  "10.0.0.2 dev lan lladdr 02:00:00:00:00:02 REACHABLE\nfe80::2 dev lan FAILED\n",
  "net.ipv4.ip_forward = 1\nnet.ipv6.conf.all.forwarding = 0\n",
  'table ip nat {\n\tchain out {\n\t\ttype nat hook postrouting priority srcnat;\n\t\toifname "wan1" ip saddr 10.0.0.0/8 masquerade\n\t}\n}\n',
  '{"nftables":[{"rule":{"family":"ip","table":"nat","chain":"out","expr":[{"match":{"op":"==","left":{"meta":{"key":"oifname"}},"right":"wan1"}},{"masquerade":null}]}}]}',
  '.1.3.6.1.2.1.1.5.0 = STRING: "tern"\n.1.3.6.1.2.1.2.2.1.2.2 = STRING: "wan1"\n.1.3.6.1.2.1.4.24.7.1.7.1.4.10.9.0.0.16.2.0.0.1.4.10.0.0.2 = INTEGER: 2\n.1.0.8802.1.1.2.1.4.1.1.5.0.2.1 = Hex-STRING: 02 00 00 00 00 01\n',
  "S 172.20.64.0/19 [5/20] via 172.20.0.2, core\n                 [5/20] via 172.20.0.6, core-b\nC 172.20.16.0/24 is directly connected, lan\n",
  "Destination: 0.0.0.0/0\n  Next hop: 198.51.100.1\n  Interface: wan1\n\nDestination: 10.1.0.0/16\n  Distance: 5\n",
  "| network | mask | gateway | port |\n|---|---|---|---|\n| 10.1.0.0 | 255.255.0.0 | 10.0.0.2 | lan |\n",
];

function anyText(plan: Plan, random: Random): string {
  const kind = random.below(3);
  if (kind === 0) return random.pick(samples);
  const files: readonly InputFile[] =
    kind === 1
      ? bundleOf(plan)
      : writeFiles(plan, random.pick(Object.keys(formats) as (keyof typeof formats)[]), null);
  return files.length === 0 ? "" : random.pick(files).text;
}

function anyFile(plan: Plan, random: Random): InputFile {
  const text = anyText(plan, random);
  const names = [
    "tern.txt",
    "tern/route.json",
    "a/b/c",
    "..",
    "",
    "tern/address.json",
    random.pick(hostileText),
  ];
  return { name: random.pick(names), text: random.chance(0.8) ? mutatedText(text, random) : text };
}

function anyLayout(random: Random): Layout[] {
  const layout = {
    ironForkLayout: 1,
    name: "x",
    words: { S: "static", q: random.pick(hostileText) },
    shapes: { "word prefix pair word address word": ["word", "to", "pair", "ignored", "via", "out"] },
    columns: random.chance(0.3) ? ["to", "via", "out"] : undefined,
  };
  try {
    return [readLayout(JSON.stringify(random.chance(0.5) ? mutated(layout, random) : layout), "x.json")];
  } catch (error) {
    if (error instanceof UnreadableLayout) return [];
    throw error;
  }
}

/** Exercises readings: read, show, rebuild, merge, compare, import. */
export function tryReading(random: Random) {
  const plan = randomPlan(random.below(1e9), { mistakes: true });
  const files = Array.from({ length: 1 + random.below(4) }, () => anyFile(plan, random));
  const layouts = anyLayout(random);
  const readings = readFiles(files, { layouts });
  for (const { name, text } of files) {
    if (text.trim() !== "" && !readings.lines.some(({ file }) => file === name))
      throw new Error(`${name} has no fate`);
    if (readerOf({ name, text })) colourTable({ name, text }, { meanings: new Meanings(), layouts }, 100);
  }
  for (const collector of readings.devices) {
    deviceFactsSchema.parse(JSON.parse(JSON.stringify(collector.facts)));
    pictureOf(collector, files[0].text);
  }
  const outcome = rebuildPlan(readings, "read");
  if (!outcome.ok) throw new Error(`no plan comes of it: ${outcome.errors.map(formatPlanError).join("; ")}`);
  const merged = mergeInto(plan, outcome.rebuilt);
  const facts = readings.devices.map((collector) => collector.facts);
  const { differences } = driftOf(NetworkModel.compile(merged.ok ? merged.plan : plan), facts);
  editOfDrift(plan, facts, differences);
}

/** Archives, and input that arrives over a connection in parts. */
export function tryPieces(random: Random) {
  const packed = pack([
    { name: "a/route.json", text: "[]" },
    { name: "b.txt", text: samples[1] },
  ]);
  try {
    unpack("x.zip", mutatedBytes(Buffer.from(packed), random));
  } catch (error) {
    if (!(error instanceof UnreadableArchive)) throw error;
  }
  const framing = new Framing();
  framing.chunked = random.chance(0.5);
  const text = mutatedText(`\n#5\nhello\n##\n<hello/>]]>]]>\n#10\n0123456789\n#1\nx\n##\n`, random);
  try {
    for (let at = 0; at < text.length; at += 7) framing.take(Buffer.from(text.slice(at, at + 7)));
  } catch (error) {
    if (!(error instanceof NotRead)) throw error;
  }
}
