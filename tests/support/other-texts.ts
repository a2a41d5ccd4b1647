import type { Random } from "./random.ts";

const ip = (random: Random) =>
  `${random.pick(["10", "172.20", "192.168"]).padEnd(2)}${random.pick([".1", ".44", ".7"])}.${random.below(250)}.${1 + random.below(250)}`
    .split(".")
    .slice(0, 4)
    .join(".");
const net = (random: Random) =>
  `${random.pick(["10", "172"])}.${16 + random.below(15)}.${random.below(250)}.0/${random.pick([24, 24, 16 + 4, 28])}`;
const mac = (random: Random) =>
  Array.from({ length: 6 }, () => random.below(256).toString(16).padStart(2, "0")).join(":");
const word = (random: Random) =>
  random.pick([
    "office",
    "depot",
    "harbour",
    "ticket",
    "desk",
    "camera",
    "printer",
    "gate",
    "north",
    "quay",
    "server",
    "booking",
    "staff",
    "guest",
  ]);
const name = (random: Random) => random.pick(["tern-edge", "gull-core", "puffin", "skerry-gw"]);
const lines = (random: Random, make: () => string) =>
  Array.from({ length: 2 + random.below(10) }, make).join("\n");
const time = (random: Random) =>
  `${String(random.below(24)).padStart(2, "0")}:${String(random.below(60)).padStart(2, "0")}:${String(random.below(60)).padStart(2, "0")}`;

/** Texts with addresses that hold no route and no interface, by kind. */
export const otherTexts: readonly (readonly [string, (random: Random) => string])[] = [
  [
    "prose",
    (random) =>
      `Hello ${word(random)},\n\nyesterday we moved ${net(random)} to the new firewall, and ${ip(random)} answers again.\nPlease route ${net(random)} via ${ip(random)} as discussed on Monday, and tell the ${word(random)} team.\nThe default gateway is ${ip(random)}; the old one (${ip(random)}) goes away in May.\n\nKind regards\n`,
  ],
  [
    "mail with quotes",
    (random) =>
      `> Could you check why ${ip(random)} cannot reach ${net(random)}?\n> We see drops on the link to ${word(random)}.\nThe network ${net(random)} was renumbered to ${net(random)} last week.\nRegards`,
  ],
  [
    "log",
    (random) =>
      lines(
        random,
        () =>
          `Mar ${1 + random.below(28)} ${time(random)} ${name(random)} kernel: dropped packet from ${net(random)} via ${ip(random)} on eth${random.below(4)}`,
      ),
  ],
  [
    "log of routes",
    (random) =>
      lines(
        random,
        () =>
          `2026-03-${String(1 + random.below(28)).padStart(2, "0")} ${time(random)} routing: added ${net(random)} via ${ip(random)} dev eth1`,
      ),
  ],
  [
    "filter",
    (random) =>
      lines(
        random,
        () =>
          `${10 * random.below(90)} ${random.pick(["permit", "deny"])} ip ${net(random)} ${random.pick(["any", net(random)])}`,
      ),
  ],
  [
    "filter with masks",
    (random) =>
      lines(
        random,
        () =>
          `access-list ${random.below(99)} ${random.pick(["permit", "deny"])} 10.${random.below(99)}.0.0 0.0.255.255 any log`,
      ),
  ],
  ["prefix list", (random) => lines(random, () => `seq ${5 * random.below(50)} permit ${net(random)} le 28`)],
  [
    "MAC table",
    (random) =>
      `VLAN  MAC address        Type     Port\n${lines(random, () => `${String(random.below(400)).padEnd(5)} ${mac(random)}  dynamic  port${random.below(24)}`)}`,
  ],
  [
    "process list",
    (random) =>
      lines(
        random,
        () =>
          `root ${random.below(9999)} 0.${random.below(9)} 1.2 ${random.below(99999)} ${random.below(9999)} ? S ${time(random).slice(0, 5)} 0:00 /usr/sbin/${word(random)} --listen ${ip(random)}`,
      ),
  ],
  [
    "ping",
    (random) =>
      `PING ${ip(random)} 56(84) bytes of data.\n${lines(random, () => `64 bytes from ${ip(random)}: icmp_seq=${random.below(9)} ttl=61 time=${random.below(90)}.4 ms`)}`,
  ],
  [
    "traceroute",
    (random) =>
      `traceroute to ${ip(random)}, 30 hops max\n${Array.from({ length: 5 }, (_, n) => ` ${n + 1}  ${ip(random)}  0.${random.below(999)} ms  0.4 ms`).join("\n")}`,
  ],
  [
    "neighbor summary",
    (random) =>
      `Neighbor        AS     Up/Down   State\n${lines(random, () => `${ip(random).padEnd(15)} ${64512 + random.below(99)}  ${random.below(9)}d${random.below(23)}h     Established`)}`,
  ],
  [
    "connections",
    (random) =>
      lines(
        random,
        () => `tcp   0  0 ${ip(random)}:22   ${ip(random)}:${40000 + random.below(9999)}  ESTABLISHED`,
      ),
  ],
  [
    "leases",
    (random) =>
      `pool ${word(random)} ${net(random)} range ${ip(random)} ${ip(random)}\n${lines(random, () => `lease ${ip(random)} ${mac(random)} ${word(random)}-${random.below(99)} expires ${time(random)}`)}`,
  ],
  [
    "address plan",
    (random) =>
      `Network plan of the ferry company\n${lines(random, () => `${net(random)}  ${word(random)} ${word(random)}`)}`,
  ],
  [
    "address plan with headings",
    (random) =>
      `Subnet           VLAN  Site      Contact\n${lines(random, () => `${net(random).padEnd(16)} ${String(random.below(400)).padEnd(5)} ${word(random).padEnd(9)} ${word(random)}`)}`,
  ],
  [
    "names",
    (random) => lines(random, () => `${word(random)}-${random.below(99)}  3600  IN  A  ${ip(random)}`),
  ],
  [
    "configuration without routes",
    (random) =>
      `hostname ${name(random)}\nntp server ${ip(random)}\nlogging host ${ip(random)}\nsnmp-server community x ${ip(random)}\nrouter ospf 1\n network 10.${random.below(99)}.0.0 0.0.255.255 area 0\n neighbor ${ip(random)} remote-as 64512\nip name-server ${ip(random)}\nvlan 20\n name ${word(random)}\n`,
  ],
  ["translation", (random) => lines(random, () => `nat source ${net(random)} to ${ip(random)} outside`)],
  [
    "zone rules",
    (random) =>
      `from  to   source            destination       action\n${lines(random, () => `lan   wan  ${net(random).padEnd(17)} ${net(random).padEnd(17)} ${random.pick(["allow", "drop"])}`)}`,
  ],
  [
    "capture",
    (random) =>
      lines(
        random,
        () =>
          `${time(random)}.123456 IP ${ip(random)}.443 > ${ip(random)}.51000: Flags [P.], seq 1:20, ack 1, win 501`,
      ),
  ],
  [
    "broken table",
    (random) =>
      `Destination       Next hop\n${lines(random, () => `172.20.${random.below(99)}...      ${ip(random)}`)}`,
  ],
  [
    "counters",
    (random) =>
      lines(
        random,
        () =>
          `eth${random.below(9)} RX packets ${random.below(99999)} bytes ${random.below(9999999)} errors 0 dropped ${random.below(9)}`,
      ),
  ],
  ["nothing", () => "\n\n   \n"],
];
