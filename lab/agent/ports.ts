import { type ChildProcess, spawn } from "node:child_process";
import { readFileSync } from "node:fs";

/** What the kernel says of the ports of this namespace, as it happens: carrier, and changes of routes. */
export class Ports {
  private readonly carrier = new Map<string, boolean>();
  private readonly monitor: ChildProcess;

  constructor(
    ports: readonly string[],
    private readonly changed: (port: string, up: boolean) => void,
    private readonly routesChanged: () => void,
  ) {
    for (const port of ports) this.carrier.set(port, carrierOf(port));
    this.monitor = spawn("ip", ["-o", "monitor", "link", "route"], { stdio: ["ignore", "pipe", "ignore"] });
    let open = "";
    this.monitor.stdout?.on("data", (data) => {
      const lines = `${open}${data}`.split("\n");
      open = lines.pop() ?? "";
      for (const line of lines) this.hear(line);
      this.routesChanged();
    });
  }

  up(port: string): boolean {
    return this.carrier.get(port) ?? false;
  }

  /** "3: wan1@if12: <BROADCAST,MULTICAST,UP,LOWER_UP> mtu 1500 …". */
  private hear(line: string) {
    const found = /^(?:Deleted )?\d+: ([^:@\s]+)[@:\s][^<]*<([^>]*)>/.exec(line);
    if (!found) return;
    const [, port, flags] = found;
    const up = flags.split(",").includes("LOWER_UP");
    if (!this.carrier.has(port) || this.carrier.get(port) === up) return;
    this.carrier.set(port, up);
    this.changed(port, up);
  }

  end() {
    this.monitor.kill();
  }
}

function carrierOf(port: string): boolean {
  try {
    return readFileSync(`/sys/class/net/${port}/carrier`, "utf8").trim() === "1";
  } catch {
    return false;
  }
}
