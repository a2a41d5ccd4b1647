import { createSocket } from "node:dgram";
import { once } from "node:events";
import { createServer as createTls } from "node:https";
import { type AddressInfo, createServer, type Server, type Socket } from "node:net";
import { generate } from "selfsigned";
import ssh2 from "ssh2";
import { afterEach, describe, expect, it } from "vitest";
import { NetworkModel } from "../core/scenario/index.ts";
import { datastoreOf } from "../stand-ins/datastore.ts";
import { freshHostKey, netconfServer } from "../stand-ins/netconf.ts";
import { restconfServer } from "../stand-ins/restconf.ts";
import { demoPlan } from "../tests/support/plans.ts";
import { keyOf, readConfirmed } from "../tests/support/read-confirmed.ts";
import type { Limits } from "./limits.ts";
import { readDevice } from "./read.ts";
import { isAllowed, readAllowed, type Secret, type Target, type Way } from "./target.ts";

const allowed = ["127.0.0.0/8"];
const login = { user: "reader", password: "a-word-nobody-may-see" };
const quick: Limits = { answerMs: 300, attemptMs: 1500, bytes: 200_000, attempts: 1, backoffMs: 10 };
const secrets: Record<Way, Secret> = {
  "snmp-v2c": { way: "snmp-v2c", community: "a-word-nobody-may-see" },
  "snmp-v3": { way: "snmp-v3", user: "reader", auth: "sha256", authWord: "", privacyWord: "" },
  restconf: { way: "restconf", ...login },
  netconf: { way: "netconf", ...login, key: "" },
  ssh: { way: "ssh", ...login, key: "" },
};

const open: { close(): unknown }[] = [];
const sockets = new Set<Socket>();
afterEach(() => {
  for (const server of open.splice(0)) server.close();
  for (const socket of sockets) socket.destroy();
  sockets.clear();
});

async function listening(server: Pick<Server, "listen" | "address" | "close" | "on">): Promise<number> {
  open.push(server);
  server.on("connection", (socket: Partial<Socket>) => {
    // SSH servers list their clients here, which end with the server.
    if (socket.destroy) sockets.add(socket as Socket);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return (server.address() as AddressInfo).port;
}

const at = (way: Way, port: number, proof: string | null = null): Target => ({
  device: "tern-edge",
  address: "127.0.0.1",
  port,
  way,
  proof,
});

const demo = NetworkModel.compile(demoPlan("marrow-bay"));
const store = datastoreOf(demo, "tern-edge");

describe.each([
  ["restconf", () => restconfServer(() => store, login)],
  ["netconf", async () => netconfServer(() => store, login)],
] as const)("%s", (way, serve) => {
  it("tells a device's interfaces and routes, as the plan has them", async () => {
    const port = await listening((await serve()) as unknown as Server);
    const proof = await keyOf(at(way, port), secrets[way], { allowed });
    const { collector, lines } = await readDevice(at(way, port, proof), secrets[way], { allowed });
    const device = demo.plan.devices.find(({ id }) => id === "tern-edge");
    expect(collector.facts.interfaces.map(({ name }) => name)).toEqual(
      device?.interfaces.map(({ name }) => name),
    );
    expect(collector.facts.interfaces.map(({ addresses }) => addresses)).toEqual(
      device?.interfaces.map(({ addresses }) => addresses),
    );
    const statics = collector.facts.routes.filter(({ source }) => source === "static");
    expect(statics.map(({ to, via }) => `${to} ${via}`).sort()).toEqual(
      device?.routes.map(({ to, via }) => `${to} ${via ?? null}`).sort(),
    );
    // Configuration and state contain the same routes: each counts once.
    expect(statics.every(({ active, distance }) => active !== null && distance !== null)).toBe(true);
    expect(lines.filter(({ fate }) => fate === "not-understood")).toEqual([]);
    expect(proof).toMatch(/^[\w+/=]{40,}$/);
  });

  it("refuses another password, and another device than before", async () => {
    const port = await listening((await serve()) as unknown as Server);
    const wrong = { ...secrets[way], password: "another" } as Secret;
    await expect(readConfirmed(at(way, port), wrong, { allowed })).rejects.toThrow(/rejected/);
    await expect(readDevice(at(way, port, "a proof of before"), secrets[way], { allowed })).rejects.toThrow(
      /has changed/,
    );
  });
});

describe("what is asked", () => {
  it("must lie in a prefix that is allowed: nothing is sent elsewhere", async () => {
    let touched = 0;
    const port = await listening(createServer(() => touched++));
    const reading = readDevice(at("ssh", port), secrets.ssh, { allowed: ["10.0.0.0/8"] });
    await expect(reading).rejects.toThrow("127.0.0.1 is outside the prefixes that may be polled");
    expect(touched).toBe(0);
  });

  it.each([
    ["10.0.0.0/8", "10.1.2.3", true],
    ["10.0.0.0/8", "11.1.2.3", false],
    ["10.0.0.0/8 2001:db8::/32", "2001:db8::1", true],
    ["", "10.1.2.3", false],
    ["0.0.0.0/0", "not an address", false],
  ])("prefixes %s, address %s: %s", (text, address, expected) => {
    expect(isAllowed(address, readAllowed(text) ?? [])).toBe(expected);
  });

  it("is no list of prefixes where one is none", () => {
    expect(readAllowed("10.0.0.0/8, nonsense")).toBeNull();
  });
});

/** Servers that accept a connection and misbehave. */
const liars: [string, (socket: Socket) => void][] = [
  ["hang", () => {}],
  ["close", (socket) => socket.destroy()],
  [
    "send garbage",
    (socket) => socket.write(Buffer.from(Array.from({ length: 4000 }, (_, i) => (i * 37) % 256))),
  ],
  [
    "send without end",
    (socket) => {
      const more = () => {
        while (socket.writable && socket.write("x".repeat(16_384)));
      };
      socket.on("drain", more);
      more();
    },
  ],
];

describe.each(["ssh", "netconf", "restconf"] as const)("devices asked by %s that", (way) => {
  it.each(liars)("%s are told, in time, without a secret", async (_name, act) => {
    const port = await listening(
      createServer((socket) => {
        socket.on("error", () => {});
        act(socket);
      }),
    );
    const started = performance.now();
    const failed = await readDevice(at(way, port), secrets[way], { allowed, limits: quick }).catch(
      (error: Error) => error,
    );
    expect(failed).toBeInstanceOf(Error);
    expect((failed as Error).message).not.toContain("nobody-may-see");
    expect((failed as Error).message.length).toBeLessThan(300);
    expect(performance.now() - started).toBeLessThan(3000);
  });
});

describe("devices asked by SNMP that", () => {
  it.each([
    ["are silent", () => null, /does not respond/],
    ["answer with garbage", () => Buffer.from("garbage, not BER"), /does not respond|cannot be read/],
  ])("%s are told", async (_name, reply, expected) => {
    const socket = createSocket("udp4");
    open.push(socket);
    socket.on("message", (_message, { port, address }) => {
      const answer = reply();
      if (answer) socket.send(answer, port, address);
    });
    socket.bind(0, "127.0.0.1");
    await once(socket, "listening");
    const target = at("snmp-v2c", socket.address().port);
    await expect(readDevice(target, secrets["snmp-v2c"], { allowed, limits: quick })).rejects.toThrow(
      expected,
    );
  });
});

/** An SSH server that runs the given command handler. */
function shell(run: (command: string, channel: ssh2.ServerChannel) => void) {
  return new ssh2.Server({ hostKeys: [freshHostKey()] }, (client) => {
    client.on("error", () => {});
    client.on("authentication", (context) =>
      context.method === "password" ? context.accept() : context.reject(["password"]),
    );
    client.on("session", (accept) => {
      accept().on("exec", (take, _refuse, { command }) => {
        const channel = take();
        channel.on("error", () => {});
        run(command, channel);
      });
    });
  });
}

describe("a Linux machine asked by SSH", () => {
  it("that answers a command without end is given up", async () => {
    const server = shell((_command, channel) => {
      const more = () => {
        while (channel.writable && channel.write("[".repeat(8192)));
      };
      channel.on("drain", more);
      more();
    });
    const port = await listening(server as unknown as Server);
    // This tests the byte limit: generous times keep a slow machine from ending it earlier.
    const limits = { ...quick, answerMs: 20_000, attemptMs: 20_000 };
    const reading = readConfirmed(at("ssh", port), secrets.ssh, { allowed, limits });
    await expect(reading).rejects.toThrow(/the answer is too long/);
  });

  it("that lacks what is needed is told; what may lack is passed over", async () => {
    const answering = (answer: (command: string) => string | null) =>
      shell((script, channel) => {
        for (const [, n, command] of script.matchAll(/echo iron-fork-part (\d+); (.*?) 2>/g)) {
          const text = answer(command);
          channel.write(
            `\niron-fork-part ${n}\n${text ?? ""}\n\niron-fork-part end ${text === null ? 127 : 0}\n`,
          );
        }
        channel.exit(0);
        channel.end();
      }) as unknown as Server;
    const none = await listening(answering(() => null));
    await expect(readConfirmed(at("ssh", none), secrets.ssh, { allowed })).rejects.toThrow(
      /"ip -j -d address" failed \(exit code 127\): the device may not run Linux/,
    );
    const address = '[{"ifname":"lan","addr_info":[{"family":"inet","local":"10.1.0.1","prefixlen":24}]}]';
    const some = await listening(
      answering((command) => (/address/.test(command) ? address : /route show/.test(command) ? "[]" : null)),
    );
    const { collector } = await readConfirmed(at("ssh", some), secrets.ssh, { allowed });
    expect(collector.facts.interfaces).toMatchObject([{ name: "lan", addresses: ["10.1.0.1/24"] }]);
    const menu = await listening(
      shell((_script, channel) => channel.end("Choose: 1) show 2) quit\n")) as unknown as Server,
    );
    await expect(readConfirmed(at("ssh", menu), secrets.ssh, { allowed })).rejects.toThrow(
      /does not come from a shell/,
    );
  });

  it("is attempted again with longer pauses, and a reading can be cancelled", async () => {
    let attempts = 0;
    const port = await listening(
      createServer((socket) => {
        attempts++;
        socket.destroy();
      }),
    );
    const limits = { ...quick, attempts: 3 };
    const told: string[] = [];
    await expect(
      readDevice(at("ssh", port), secrets.ssh, { allowed, limits, tell: (text) => told.push(text) }),
    ).rejects.toThrow(/closed|failed/);
    expect(attempts).toBe(3);
    const ending = new AbortController();
    const reading = readDevice(at("ssh", port), secrets.ssh, {
      allowed,
      limits: { ...limits, backoffMs: 60_000 },
      signal: ending.signal,
    });
    setTimeout(() => ending.abort(), 100);
    await expect(reading).rejects.toThrow("cancelled");
  });
});

describe("RESTCONF", () => {
  it("that answers with a body without end is given up, and a password goes to nobody else", async () => {
    const { private: key, cert } = await generate([{ name: "commonName", value: "device" }], {
      keyType: "ec",
    });
    const seen: (string | undefined)[] = [];
    const port = await listening(
      createTls({ key, cert }, (req, res) => {
        seen.push(req.headers.authorization);
        res.setHeader("Content-Type", "application/yang-data+json");
        const more = () => {
          while (res.writable && res.write("[".repeat(8192)));
        };
        res.on("drain", more);
        res.on("error", () => {});
        more();
      }) as unknown as Server,
    );
    const reading = readConfirmed(at("restconf", port), secrets.restconf, { allowed, limits: quick });
    await expect(reading).rejects.toThrow(/the answer is too long/);
    expect(seen).toHaveLength(1);
    const strange = readDevice(at("restconf", port, "0".repeat(64)), secrets.restconf, {
      allowed,
      limits: quick,
    });
    await expect(strange).rejects.toThrow(/has changed/);
    expect(seen).toHaveLength(1);
  });
});
