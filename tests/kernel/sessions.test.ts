import { type ChildProcessWithoutNullStreams, spawn } from "node:child_process";
import { describe, expect, it } from "vitest";
import type { Plan } from "../../core/plan/index.ts";
import { breakingInAny, establishedSessions } from "../../core/walk/index.ts";
import { canBuild, Lab } from "../../lab/lab.ts";
import { engineOf, planOf, tripOf, worldWith } from "../support/plans.ts";
import { Random } from "../support/random.ts";

/** A host behind an edge with two exits, which may translate, as may the routers behind it: pc – edge – (ra | rb) –
 * core – srv. Replies take either path. */
function exitsPlan(seed: number): Plan {
  const random = new Random(seed * 2741);
  const translated = (out: string, own: string | null) =>
    random.chance(0.45)
      ? [
          {
            out,
            ...(random.chance(0.7) ? { from: ["10.1.0.0/24"] } : {}),
            to: own && random.chance(0.4) ? own : "interface",
          },
        ]
      : [];
  const behind = (id: string, n: number) => ({
    id,
    role: "router",
    profile: random.chance(0.3) ? "guard" : "metric-router",
    interfaces: [
      { name: "in", addresses: [`10.${n}.0.2/30`], zone: "in" },
      { name: "out", addresses: [`10.${n + 2}.0.1/30`], zone: "out" },
    ],
    sourceNat: random.chance(0.6) ? translated("out", null) : [],
    ...(random.chance(0.25) ? { policy: { default: "deny", trust: ["in", "out"] } } : {}),
    routes: [
      { to: "10.1.0.0/24", via: `10.${n}.0.1` },
      { to: "10.9.0.1/32", via: `10.${n}.0.1` },
      { to: "10.8.0.0/24", via: `10.${n + 2}.0.2` },
    ],
  });
  const [first, second] = random.shuffled([1, 2]);
  const back = (to: string) =>
    random.shuffled([4, 5]).map((n, k) => ({ to, via: `10.${n}.0.1`, metric: k + 1 }));
  return planOf({
    profiles: [{ id: "guard", base: "metric-router", stateful: true }],
    devices: [
      {
        id: "pc",
        role: "host",
        interfaces: [{ name: "eth0", addresses: ["10.1.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
      },
      {
        id: "edge",
        role: "router",
        profile: "metric-router",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "a", addresses: ["10.2.0.1/30"] },
          { name: "b", addresses: ["10.3.0.1/30"] },
          { name: "own", kind: "loopback", addresses: ["10.9.0.1/32"] },
        ],
        sourceNat: [...translated("a", "10.9.0.1"), ...translated("b", "10.9.0.1")],
        routes: [
          { to: "10.8.0.0/24", via: "10.2.0.2", metric: first },
          { to: "10.8.0.0/24", via: "10.3.0.2", metric: second },
        ],
      },
      behind("ra", 2),
      behind("rb", 3),
      {
        id: "core",
        role: "router",
        profile: "metric-router",
        interfaces: [
          { name: "a", addresses: ["10.4.0.2/30"] },
          { name: "b", addresses: ["10.5.0.2/30"] },
          { name: "lan", addresses: ["10.8.0.1/24"] },
        ],
        routes: [
          { to: "10.2.0.0/30", via: "10.4.0.1" },
          { to: "10.3.0.0/30", via: "10.5.0.1" },
          ...back("10.1.0.0/24"),
          ...back("10.9.0.1/32"),
        ],
      },
      {
        id: "srv",
        role: "host",
        interfaces: [{ name: "eth0", addresses: ["10.8.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.8.0.1" }],
      },
    ],
    links: [
      { id: "lan", medium: "switch", ends: ["pc/eth0", "edge/lan"] },
      { id: "ea", medium: "cable", ends: ["edge/a", "ra/in"] },
      { id: "eb", medium: "cable", ends: ["edge/b", "rb/in"] },
      { id: "ca", medium: "cable", ends: ["ra/out", "core/a"] },
      { id: "cb", medium: "cable", ends: ["rb/out", "core/b"] },
      { id: "hall", medium: "switch", ends: ["core/lan", "srv/eth0"] },
    ],
  });
}

const PORT = 7000;
const ECHO = `require("net").createServer((s) => { s.on("error", () => {}); s.on("data", (d) => s.write(d)); }).listen(${PORT}, "10.8.0.10", () => console.log("ready"));`;
const CLIENT = `const s = require("net").connect(${PORT}, "10.8.0.10"); s.setNoDelay(true); s.on("error", (e) => console.log("error " + e.code)); s.on("connect", () => console.log("connected")); s.on("data", (d) => console.log("echo " + d)); process.stdin.on("data", (d) => s.write(String(d).trim()));`;

/** A program in a device of a lab, and its output. */
class Told {
  private readonly child: ChildProcessWithoutNullStreams;
  private text = "";

  constructor(namespace: string, program: string) {
    this.child = spawn("ip", ["netns", "exec", namespace, process.execPath, "-e", program]);
    this.child.stdout.on("data", (data) => {
      this.text += data;
    });
  }

  say(text: string) {
    this.child.stdin.write(`${text}\n`);
  }

  /** Whether it says this within some time. */
  async hears(wanted: string, ms: number): Promise<boolean> {
    for (const end = Date.now() + ms; Date.now() < end; ) {
      if (this.text.includes(wanted)) return true;
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    return this.text.includes(wanted);
  }

  end() {
    this.child.kill("SIGKILL");
  }
}

// Rules 6.6 and 18: established and translated sessions when the exit changes.
describe.skipIf(!canBuild())("the Linux kernel agrees about established sessions", () => {
  // By hand: SESSIONS_FIRST and SESSIONS_COUNT.
  const { SESSIONS_FIRST, SESSIONS_COUNT } = process.env;
  const seeds = Array.from(
    { length: Number(SESSIONS_COUNT ?? 8) },
    (_, i) => Number(SESSIONS_FIRST ?? 1) + i,
  );
  it.each(seeds)(
    "on random plan %i",
    async (seed) => {
      const plan = exitsPlan(seed);
      const engine = engineOf(plan);
      const asked = { protocol: "tcp" as const, port: PORT };
      const before = tripOf(engine.healthy.world, "pc", "10.8.0.10", asked);
      const lab = new Lab(plan, `if${process.pid % 10000}e${seed}`);
      const programs: Told[] = [];
      try {
        lab.build();
        const echo = new Told(lab.namespace("srv"), ECHO);
        programs.push(echo);
        expect(await echo.hears("ready", 10_000)).toBe(true);
        const begin = async () => {
          const client = new Told(lab.namespace("pc"), CLIENT);
          programs.push(client);
          const patienceMs = patienceFor(before.verdict === "works");
          if (!(await client.hears("connected", patienceMs))) return null;
          client.say("first");
          return (await client.hears("echo first", patienceMs)) ? client : null;
        };
        const client = await begin();
        expect({ seed, works: before.verdict === "works" }).toEqual({ seed, works: client !== null });
        if (!client) return;
        for (const failed of new Random(seed).shuffled(["link:ea", "link:eb", "link:ca", "link:cb"])) {
          const world = worldWith(engine, failed);
          const now = tripOf(world, "pc", "10.8.0.10", asked);
          if (now.verdict !== "works") continue;
          const [{ asked: question }] = establishedSessions(before, questionOf(before), world);
          const breaking = breakingInAny(before, question, [world]);
          lab.set(failed, false);
          client.say("second");
          const lives = await client.hears("echo second", patienceFor(breaking === null));
          const told = { seed, failed, uncertain: breaking?.uncertain };
          if (!breaking?.uncertain)
            expect({ ...told, lives: breaking === null, breaking }).toEqual({ ...told, lives, breaking });
          return;
        }
      } finally {
        for (const program of programs) program.end();
        lab.remove();
      }
    },
    60_000,
  );
});

/** The time allowed for an expected event on a busy machine, in milliseconds. */
const patienceFor = (isExpected: boolean) => (isExpected ? 12_000 : 2500);

function questionOf({ branches }: ReturnType<typeof tripOf>) {
  const [{ outbound }] = branches;
  const packet = outbound.packet;
  if (!packet) throw new Error("it was never sent");
  const { device, vrf } = outbound.hops[0];
  return { device, vrf, source: null, destination: packet.destination, protocol: "tcp" as const, port: PORT };
}
