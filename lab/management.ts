import { spawn } from "node:child_process";
import { chmodSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { setTimeout as rest } from "node:timers/promises";
import type { Lab } from "./lab.ts";
import { batch, run } from "./shell.ts";

/** The management network, from the range for benchmarking (RFC 2544), which no plan uses. */
export const MANAGEMENT = "198.18.0.0/15";
/** What the management interface is called on every device. */
export const PORT = "mgmt0";

/** What the lab's devices are asked with: good for nothing but the lab, which reaches this machine alone. */
export const words = {
  community: "lab-reader",
  user: "reader",
  authWord: "lab-auth-word",
  privacyWord: "lab-privacy-word",
} as const;

/** Which of the servers the devices get. */
export interface Servers {
  readonly snmp: boolean;
  readonly ssh: boolean;
  /** Neighbor announcements, also available through the SNMP agent. */
  readonly neighbours: boolean;
}

/** Servers in the devices of a lab, reached over a network of their own from this machine, and from nowhere else. */
export class Management {
  private readonly addresses = new Map<string, string>();

  /** `folder`: for the servers' files. `net`: the third octet and the half of the prefix, 0 to 511; no other lab's. */
  constructor(
    private readonly lab: Lab,
    private readonly devices: readonly string[],
    private readonly folder: string,
    private readonly net: number,
  ) {
    for (const [i, device] of devices.entries()) this.addresses.set(device, `${this.base}.${i + 2}`);
  }

  private get base(): string {
    return `198.${18 + (this.net >> 8)}.${this.net & 255}`;
  }

  private get bridge(): string {
    return `ifm${this.net}`;
  }

  address(device: string): string {
    return this.addresses.get(device) ?? "";
  }

  /** The private key that the SSH servers accept for root. */
  get key(): string {
    return readFileSync(`${this.folder}/reader-key`, "utf8");
  }

  /** Lays the network, and starts the servers; they run until `stop`, or by themselves where `detached`. */
  async start(servers: Servers, detached = false): Promise<void> {
    mkdirSync(this.folder, { recursive: true });
    // The neighbours' server gives its rights up, and must still find its files.
    chmodSync(this.folder, 0o755);
    const lines = [
      `link add ${this.bridge} type bridge`,
      `address add ${this.base}.1/24 dev ${this.bridge}`,
      `link set ${this.bridge} up`,
    ];
    for (const [i, device] of this.devices.entries()) {
      const port = `${this.bridge}x${i}`;
      lines.push(
        `link add ${port} type veth peer name ${PORT} netns ${this.lab.namespace(device)}`,
        `link set ${port} master ${this.bridge}`,
        `link set ${port} up`,
      );
    }
    batch(null, lines);
    if (servers.ssh) this.makeKeys();
    for (const device of this.devices) {
      batch(this.lab.namespace(device), [
        `address add ${this.address(device)}/24 dev ${PORT}`,
        `link set ${PORT} up`,
      ]);
      const home = `${this.folder}/${device}`;
      mkdirSync(`${home}/agent`, { recursive: true });
      if (servers.snmp) this.startAgent(device, home, detached);
      if (servers.ssh) this.startShell(device, home, detached);
    }
    if (servers.snmp && servers.neighbours) {
      for (const device of this.devices)
        await this.startNeighbours(device, `${this.folder}/${device}`, detached);
    }
  }

  private makeKeys() {
    run("ssh-keygen", ["-q", "-t", "ed25519", "-N", "", "-C", "lab", "-f", `${this.folder}/host-key`]);
    run("ssh-keygen", ["-q", "-t", "ed25519", "-N", "", "-C", "lab", "-f", `${this.folder}/reader-key`]);
    mkdirSync("/run/sshd", { recursive: true });
  }

  private serve(device: string, command: string, args: readonly string[], detached: boolean, env = {}) {
    const child = spawn("ip", ["netns", "exec", this.lab.namespace(device), command, ...args], {
      stdio: "ignore",
      detached,
      env: { ...process.env, MIBS: "", ...env },
    });
    child.on("error", () => {});
    if (detached) child.unref();
  }

  private startAgent(device: string, home: string, detached: boolean) {
    const file = `${home}/snmpd.conf`;
    const { community, user, authWord, privacyWord } = words;
    writeFileSync(
      file,
      [
        `agentaddress udp:${this.address(device)}:161`,
        `rocommunity ${community} ${MANAGEMENT}`,
        `sysName ${device}`,
        "master agentx",
        `agentXSocket unix:${home}/agentx`,
        `createUser ${user} SHA-256 ${authWord} AES ${privacyWord}`,
        `rouser ${user} priv`,
        "",
      ].join("\n"),
    );
    this.serve(device, "snmpd", ["-f", "-Ln", "-C", "-c", file, "-p", `${home}/snmpd.pid`], detached, {
      SNMP_PERSISTENT_DIR: `${home}/agent`,
    });
  }

  private startShell(device: string, home: string, detached: boolean) {
    const file = `${home}/sshd.conf`;
    writeFileSync(
      file,
      [
        `ListenAddress ${this.address(device)}`,
        `HostKey ${this.folder}/host-key`,
        `AuthorizedKeysFile ${this.folder}/reader-key.pub`,
        "PermitRootLogin prohibit-password",
        "PasswordAuthentication no",
        "StrictModes no",
        "UsePAM no",
        "UseDNS no",
        // Whatever the machine's own user starts with is no part of the lab.
        `SetEnv HOME=${this.folder}`,
        `PidFile ${home}/sshd.pid`,
        "",
      ].join("\n"),
    );
    chmodSync(file, 0o600);
    this.serve(device, "/usr/sbin/sshd", ["-D", "-f", file], detached);
  }

  /** IEEE 802.1AB through the agent; starts once the agent has opened its socket. */
  private async startNeighbours(device: string, home: string, detached: boolean) {
    const file = `${home}/lldpd.conf`;
    writeFileSync(
      file,
      `configure system hostname ${device}\nconfigure lldp portidsubtype ifname\nconfigure lldp tx-interval 1\n`,
    );
    for (let n = 0; n < 100 && run("test", ["-S", `${home}/agentx`], true).status !== 0; n++) await rest(50);
    chmodSync(`${home}`, 0o777);
    const args = ["-d", "-u", `${home}/lldp`, "-x", "-X", `unix:${home}/agentx`, "-O", file];
    this.serve(device, "lldpd", args, detached);
  }

  stop() {
    for (const device of this.devices) stopIn(this.lab.namespace(device));
    run("ip", ["link", "del", this.bridge], true);
  }
}

/** Ends every process in a namespace. */
export function stopIn(namespace: string) {
  const pids = run("ip", ["netns", "pids", namespace], true).stdout.split("\n").filter(Boolean);
  if (pids.length > 0) run("kill", ["-KILL", ...pids], true);
}

/** The first management network that no lab on this machine has. */
export function freeNet(from = 0): number {
  const taken = run("ip", ["-o", "-4", "address", "show"], true).stdout;
  for (let net = from; net < 512; net++) {
    if (!taken.includes(` 198.${18 + (net >> 8)}.${net & 255}.1/`)) return net;
  }
  throw new Error("no management network is free: 512 labs are up");
}

/** Which of the programs that a managed lab needs are missing. */
export function missingServers(): string[] {
  const wanted = {
    snmpd: "snmpd",
    lldpd: "lldpd",
    "/usr/sbin/sshd": "openssh-server",
    "ssh-keygen": "openssh-client",
  };
  return Object.entries(wanted).flatMap(([program, from]) =>
    run("sh", ["-c", `command -v ${program}`], true).status === 0 ? [] : [from],
  );
}
