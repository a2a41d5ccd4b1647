import type { NextHop } from "../../routes/index.ts";
import type { NumberedSession } from "./recorded.ts";

/** What a packet says of itself, and the VRF that it is looked up in. */
interface Header {
  vrf: number;
  /** Its addresses as it came in. */
  cameFrom: number;
  cameTo: number;
  /** Its addresses as they stand; a number of the address book each. */
  source: number;
  destination: number;
}

/** The places along a packet's path, indexed by hop count: device, ingress interface (-1 at the sender), header, and
 * the egress hop. Adjacent places share an unchanged header. */
export class Places {
  private capacity = 0;
  device = new Int32Array(0);
  in = new Int32Array(0);
  out = new Int32Array(0);
  /** Devices that have sent it on. */
  sentOn = new Int32Array(0);
  /** The place whose header stands at each. */
  headerOf = new Int32Array(0);
  private readonly headers: Header[] = [];
  readonly sessions: (readonly NumberedSession[])[] = [];
  /** The next hop if a device accepted the packet there, to identify gateways; else null. */
  readonly taken: (NextHop | null)[] = [];

  /** Ensures capacity for `count` places. */
  reserve(count: number) {
    if (count <= this.capacity) return;
    this.capacity = Math.max(64, count * 2);
    const grown = (list: Int32Array) => {
      const larger = new Int32Array(this.capacity);
      larger.set(list);
      return larger;
    };
    this.device = grown(this.device);
    this.in = grown(this.in);
    this.out = grown(this.out);
    this.sentOn = grown(this.sentOn);
    this.headerOf = grown(this.headerOf);
    while (this.taken.length < this.capacity) {
      this.taken.push(null);
      this.headers.push({ vrf: 0, cameFrom: 0, cameTo: 0, source: 0, destination: 0 });
    }
  }

  /** The header at a place. */
  header(at: number): Header {
    return this.headers[this.headerOf[at]];
  }

  /** Puts a packet at a place, as it comes in. */
  put(at: number, device: number, vrf: number, by: number, source: number, destination: number) {
    this.reserve(at + 1);
    this.device[at] = device;
    this.in[at] = by;
    this.headerOf[at] = at;
    const header = this.headers[at];
    header.vrf = vrf;
    header.cameFrom = header.source = source;
    header.cameTo = header.destination = destination;
  }

  /** Rule 6.3: whether the packet was here before with the same header, by the same interface and in the same VRF. */
  circles(at: number): boolean {
    const { device, in: by } = this;
    const [here, came] = [device[at], by[at]];
    for (let k = at - 1; k >= 0; k--) {
      if (by[k] === came && device[k] === here && this.cameAlike(k, at)) return true;
    }
    return false;
  }

  private cameAlike(one: number, other: number): boolean {
    const [a, b] = [this.header(one), this.header(other)];
    return a === b || (a.vrf === b.vrf && a.cameFrom === b.cameFrom && a.cameTo === b.cameTo);
  }
}
