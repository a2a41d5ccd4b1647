import { readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CAPTURE_FILE, capture } from "../../demo/make-captures.ts";
import {
  compare,
  conversationsOf,
  type Exchange,
  exchangesOf,
  type Observed,
  observedOf,
  readCapture,
} from "./index.ts";
import { decodeFrame } from "./packet.ts";

const hex = (text: string) =>
  Uint8Array.from(text.replace(/\s/g, "").match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));
const pair = (value: number) => value.toString(16).padStart(4, "0");
const word = (value: number) => (value >>> 0).toString(16).padStart(8, "0");

const A = "00005e005311";
const B = "00005e005321";
const C = "00005e005322";
const DESK = "ac14300a";
const SERVER = "ac145a14";

/** An IPv4 packet in an Ethernet frame, as hexadecimal text. */
function ip4(kind: number, payload: string, from = DESK, to = SERVER, ends = [B, A], tags = ""): string {
  const length = 20 + payload.length / 2;
  return `${ends[0]}${ends[1]}${tags}0800 4500${pair(length)} 00010000 40${kind.toString(16).padStart(2, "0")}0000 ${from}${to}${payload}`;
}

const echo = (asks: boolean, sequence: number, ends?: string[]) =>
  asks
    ? ip4(1, `08000000 0042${pair(sequence)} 6162`.replace(/\s/g, ""), DESK, SERVER, ends)
    : ip4(1, `00000000 0042${pair(sequence)} 6162`.replace(/\s/g, ""), SERVER, DESK, ends ?? [A, B]);

const udp = (ports: number[]) => `${pair(ports[0])}${pair(ports[1])}000a00006162`;
function tcp(ports: number[], sequence: number, flags: number, acknowledges: number, data = ""): string {
  const head = `${pair(ports[0])}${pair(ports[1])}${word(sequence)}${word(acknowledges)}`;
  return `${head}50${flags.toString(16).padStart(2, "0")}0000 00000000${data}`.replace(/\s/g, "");
}

type Timed = { atMs: number; frame: string };

/** The classic format. */
function pcap(frames: Timed[], { little = true, nano = false, linkType = 1 } = {}): Uint8Array {
  const bytes: number[] = [];
  const put = (value: number) => {
    const four = [value >>> 24, (value >>> 16) & 255, (value >>> 8) & 255, value & 255];
    bytes.push(...(little ? four.reverse() : four));
  };
  put(nano ? 0xa1b23c4d : 0xa1b2c3d4);
  bytes.push(...(little ? [2, 0, 4, 0] : [0, 2, 0, 4]));
  for (const value of [0, 0, 65535, linkType]) put(value);
  for (const { atMs, frame } of frames) {
    const data = hex(frame);
    put(Math.floor(atMs / 1000));
    put(Math.round((atMs % 1000) * (nano ? 1e6 : 1e3)));
    put(data.length);
    put(data.length);
    bytes.push(...data);
  }
  return Uint8Array.from(bytes);
}

/** A pcapng block of little-endian words. */
function block(kind: number, ...words: (number | Uint8Array)[]): number[] {
  const body = words.flatMap((entry) =>
    typeof entry === "number"
      ? [entry & 255, (entry >>> 8) & 255, (entry >>> 16) & 255, entry >>> 24]
      : [...entry, ...new Array((4 - (entry.length % 4)) % 4).fill(0)],
  );
  const length = body.length + 12;
  const four = [length & 255, length >> 8, 0, 0];
  return [kind & 255, (kind >> 8) & 255, (kind >> 16) & 255, kind >>> 24, ...four, ...body, ...four];
}
const section = block(0x0a0d0d0a, 0x1a2b3c4d, 1, 0xffffffff, 0xffffffff);

function framesOf(bytes: Uint8Array) {
  const reading = readCapture(bytes);
  if (!reading.ok) throw new Error(reading.message);
  return reading;
}

describe("capture files", () => {
  const frames = [
    { atMs: 1_700_000_000_123, frame: echo(true, 1) },
    { atMs: 1_700_000_000_140, frame: echo(false, 1) },
  ];

  it("are read in both byte orders, with microseconds and nanoseconds", () => {
    for (const little of [true, false])
      for (const nano of [true, false]) {
        const read = framesOf(pcap(frames, { little, nano }));
        expect(read.frames.map((frame) => Math.round(frame.atMs))).toEqual(frames.map((f) => f.atMs));
        expect(read.frames.map((frame) => [...frame.data])).toEqual(frames.map((f) => [...hex(f.frame)]));
        expect(read.notes).toEqual([]);
      }
  });

  it("of the next generation are read with the resolution, offset and name of each interface, over several sections", () => {
    const data = hex(echo(true, 7));
    // Interface 0 counts nanoseconds and is called wan1; interface 1 counts 2^-10 seconds, an hour late.
    const nano = block(1, 1, 0, 0x00040002, 0x316e6177, 0x00010009, 9, 0);
    const binary = block(1, 1, 0, 0x00010009, 0x8a, 0x0008000e, 3600, 0, 0);
    const at = 1_700_000_000n * 1_000_000_000n + 5_000_000n;
    const [high, low] = [Number(at >> 32n), Number(at & 0xffffffffn)];
    const bytes = Uint8Array.from([
      ...section,
      ...nano,
      ...binary,
      ...block(6, 0, high, low, data.length, data.length, data),
      ...block(6, 1, 0, 2048, data.length, data.length, data),
      ...block(3, data.length, data),
      ...block(0x0bad, 1, 2, 3),
      ...section,
      ...block(1, 101, 0),
      ...block(6, 0, 0, 1000, 4, 4, hex("45000000")),
    ]);
    const read = framesOf(bytes);
    expect(read.ports).toEqual(["wan1", "", ""]);
    expect(read.frames.map(({ atMs, port, linkType }) => [atMs, port, linkType])).toEqual([
      [1_700_000_000_005, 0, 1],
      [3_602_000, 1, 1],
      [1, 2, 101],
    ]);
    expect(read.notes).toEqual(["1 packets have no time and were skipped"]);
  });

  it("that end in the middle are read up to there, and say so", () => {
    const whole = pcap(frames);
    for (let end = 24; end < whole.length; end++) {
      const read = framesOf(whole.subarray(0, end));
      const room = 16 + hex(frames[0].frame).length;
      expect(read.frames.length).toBe(Math.floor((end - 24) / room));
      expect(read.notes.length).toBe((end - 24) % room === 0 ? 0 : 1);
    }
    const next = Uint8Array.from([...section, ...block(1, 1, 0), 6, 0, 0, 0, 255, 255, 0, 0, 1, 2, 3, 4, 5]);
    expect(framesOf(next).notes[0]).toMatch(/cut short or damaged at byte/);
  });

  it("that are none are refused with what they start with", () => {
    expect(readCapture(hex("504b0304"))).toEqual({
      ok: false,
      message:
        "the file is not a packet capture: it starts with 0x504b0304, which is neither pcap nor pcapng",
    });
    expect(readCapture(new Uint8Array())).toMatchObject({ ok: false });
    expect(readCapture(hex("d4c3b2a10200"))).toEqual({
      ok: false,
      message: "the file ends within its header",
    });
  });

  it("of rubbish never throw", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), fc.constantFrom(0, 1, 2), (rubbish, kind) => {
        const start = [new Uint8Array(), pcap(frames), Uint8Array.from([...section, ...block(1, 1, 0)])][
          kind
        ];
        const reading = readCapture(Uint8Array.from([...start, ...rubbish]));
        if (reading.ok) for (const frame of reading.frames) decodeFrame(frame);
        decodeFrame({ atMs: 0, port: 0, linkType: [1, 101, 113][kind], data: rubbish });
      }),
      { numRuns: 2000 },
    );
  });
});

describe("frames", () => {
  const decode = (frame: string, linkType = 1) =>
    decodeFrame({ atMs: 5, port: 0, linkType, data: hex(frame) });

  it("tell hardware, addresses and ports, behind VLAN tags too", () => {
    expect(decode(ip4(17, udp([5000, 53]), DESK, SERVER, [B, A], "81000064 81000065")).packet).toEqual({
      atMs: 5,
      fromHardware: "00:00:5e:00:53:11",
      toHardware: "00:00:5e:00:53:21",
      source: "172.20.48.10",
      destination: "172.20.90.20",
      protocol: "udp",
      sourcePort: 5000,
      destinationPort: 53,
      echo: null,
      tcp: null,
    });
    const cooked = `0000 0001 0006 ${A}0000 0800 ${ip4(17, udp([1, 2])).slice(28)}`;
    expect(decode(cooked, 113).packet).toMatchObject({ fromHardware: "00:00:5e:00:53:11", toHardware: "" });
    expect(decode(ip4(17, udp([1, 2])).slice(28), 101).packet).toMatchObject({ destination: "172.20.90.20" });
  });

  it("of IPv6 are read behind extension headers, and neighbours told by ARP and discovery", () => {
    const source = "20010db8001600000000000000000010";
    const target = "20010db8009000000000000000000010";
    const ping = "80000000 0007 0003 6162";
    const packet = `${B}${A}86dd 60000000 0012 00 40 ${source}${target} 3a00000000000000 ${ping}`;
    expect(decode(packet).packet).toMatchObject({
      source: "2001:db8:16::10",
      destination: "2001:db8:90::10",
      sourcePort: 7,
      echo: { asks: true, sequence: 3 },
    });
    expect(decode(`ffffffffffff${A}0806 0001080006040002 ${A}ac14ff0a ${B}ac14ff09`).neighbour).toEqual({
      address: "172.20.255.10",
      hardware: "00:00:5e:00:53:11",
    });
    const advertisement = `88000000 60000000 ${target} 0201${B}`;
    expect(decode(`${A}${B}86dd 60000000 0020 3aff ${target}${source} ${advertisement}`).neighbour).toEqual({
      address: "2001:db8:90::10",
      hardware: "00:00:5e:00:53:21",
    });
  });

  it("that are cut off, fragments or something else tell nothing", () => {
    const whole = ip4(17, udp([1, 2]));
    expect(decode(whole.slice(0, 70))).toEqual({ packet: null, neighbour: null });
    expect(decode(whole.replace("00010000", "00010010")).packet).toBeNull();
    expect(decode(`${B}${A}88cc0000`)).toEqual({ packet: null, neighbour: null });
  });
});

describe("conversations", () => {
  const told = (frames: Timed[]) => conversationsOf(framesOf(pcap(frames)).frames);

  it("pair echoes by number, and count a packet seen at two places once", () => {
    const { conversations } = told([
      { atMs: 1000, frame: echo(true, 1) },
      { atMs: 1001, frame: echo(true, 1, [C, B]) },
      { atMs: 1010, frame: echo(false, 1) },
      { atMs: 2000, frame: echo(true, 2) },
    ]);
    expect(conversations).toHaveLength(1);
    const [first, second] = exchangesOf(conversations[0]);
    expect(first).toMatchObject({ atMs: 1000, answeredMs: 1010 });
    expect(first.outHardware).toEqual(["00:00:5e:00:53:11", "00:00:5e:00:53:21", "00:00:5e:00:53:22"]);
    expect(second.answeredMs).toBeNull();
  });

  it("of TCP are answered by what is acknowledged, over the end of the numbers too", () => {
    const up = (sequence: number, flags: number, data = "") =>
      ip4(6, tcp([40000, 443], sequence, flags, 1, data));
    const down = (acknowledges: number) =>
      ip4(6, tcp([443, 40000], 1, 0x10, acknowledges), SERVER, DESK, [A, B]);
    const { conversations } = told([
      { atMs: 1000, frame: up(0xfffffffe, 0x02) },
      { atMs: 1010, frame: down(0xffffffff) },
      { atMs: 1020, frame: up(0xffffffff, 0x18, "616263") },
      { atMs: 1025, frame: up(2, 0x10) },
      { atMs: 1030, frame: down(2) },
      { atMs: 1040, frame: up(2, 0x18, "6162") },
      // Sent again after it was lost: the same question.
      { atMs: 1400, frame: up(2, 0x18, "6162") },
    ]);
    expect(conversations[0]).toMatchObject({ client: "172.20.48.10", port: 443 });
    expect(exchangesOf(conversations[0]).map((e) => [e.atMs, e.answeredMs])).toEqual([
      [1000, 1010],
      [1020, 1030],
      [1040, null],
    ]);
  });

  it("of UDP are answered by the next packet back", () => {
    const { conversations } = told([
      { atMs: 1000, frame: ip4(17, udp([5000, 53])) },
      { atMs: 1010, frame: ip4(17, udp([53, 5000]), SERVER, DESK, [A, B]) },
      { atMs: 1500, frame: ip4(17, udp([5000, 53])) },
    ]);
    expect(exchangesOf(conversations[0]).map((e) => e.answeredMs)).toEqual([1010, null]);
  });

  it("of UDP give no answer to a question that was given up before", () => {
    const { conversations } = told([
      { atMs: 1000, frame: ip4(17, udp([5000, 53])) },
      { atMs: 9000, frame: ip4(17, udp([5000, 53])) },
      { atMs: 9010, frame: ip4(17, udp([53, 5000]), SERVER, DESK, [A, B]) },
    ]);
    expect(exchangesOf(conversations[0]).map((e) => e.answeredMs)).toEqual([null, 9010]);
  });
});

describe("what was observed", () => {
  it("tells every silence, how long it was at least and at most, for any pattern of loss", () => {
    fc.assert(
      fc.property(
        fc.array(fc.boolean(), { minLength: 1, maxLength: 60 }),
        fc.integer({ min: 5, max: 500 }),
        (pattern, every) => {
          const exchanges = pattern.map(
            (answered, i): Exchange => ({
              atMs: 1000 + i * every,
              answeredMs: answered ? 1001 + i * every : null,
              outHardware: ["a"],
              backHardware: [],
            }),
          );
          const seen = observedOf(exchanges, () => "one", 1000);
          const runs = pattern
            .map((x) => (x ? "1" : "0"))
            .join("")
            .matchAll(/0+/g);
          const expected = [...runs].map(({ 0: run, index }) => ({
            firstMs: index * every,
            lastMs: (index + run.length - 1) * every,
            lost: run.length,
            leastMs: (run.length - 1) * every,
            mostMs: index + run.length === pattern.length ? null : (run.length + (index > 0 ? 1 : 0)) * every,
          }));
          expect(seen.silences).toEqual(expected);
          expect(seen.spans.reduce((sum, span) => sum + span.sent, 0)).toBe(pattern.length);
          for (const [i, span] of seen.spans.slice(1).entries()) expect(span.fromMs).toBe(seen.spans[i].toMs);
        },
      ),
    );
  });

  it("is compared with a prediction point by point", () => {
    const seen = (silences: Observed["silences"], carriers: string[]): Observed => ({
      spans: [],
      silences,
      carriers,
      sent: 10,
      lost: 1,
      spacingMs: 50,
    });
    const silence = { firstMs: 0, lastMs: 100, lost: 3, leastMs: 100, mostMs: 200 };
    const predicted = { outageMs: { min: 150, max: 250 }, carriers: ["a", "b"] };
    const agree = (observed: Observed, of = predicted) => {
      const { gap, carriers } = compare(observed, of as never);
      return [gap.agrees, carriers.agrees];
    };
    expect(agree(seen([silence], ["a", "b"]))).toEqual([true, true]);
    expect(agree(seen([{ ...silence, leastMs: 260, mostMs: 400 }], ["a"]))).toEqual([false, false]);
    expect(agree(seen([{ ...silence, leastMs: 10, mostMs: 90 }], []))).toEqual([false, false]);
    // Nothing lost: the gap was shorter than the time between two packets.
    expect(agree(seen([], ["a", "b"]))[0]).toBe(false);
    expect(agree(seen([], ["a", "b"]), { outageMs: { min: 0, max: 40 }, carriers: [] })[0]).toBe(true);
    const endless = { outageMs: { min: null, max: null }, carriers: ["a"] };
    expect(agree(seen([{ ...silence, mostMs: null }], ["a"]), endless as never)).toEqual([true, true]);
    expect(agree(seen([silence], ["a"]), endless as never)[0]).toBe(false);
  });
});

describe("the demo's capture", () => {
  it("is what its generator makes", () => {
    expect(Buffer.compare(readFileSync(CAPTURE_FILE), capture())).toBe(0);
  });

  it("shows line 1, a short silence, line 2 and line 1 again", () => {
    const read = framesOf(capture());
    expect(read.ports).toEqual(["longhaven wan1", "longhaven wan2"]);
    const { conversations } = conversationsOf(read.frames);
    const lines = new Map([
      ["00:00:5e:00:53:11", "long-1"],
      ["00:00:5e:00:53:12", "long-2"],
    ]);
    const seen = observedOf(
      exchangesOf(conversations[0]),
      (hardware) => hardware.map((address) => lines.get(address)).find(Boolean) ?? "",
      read.frames[0].atMs,
    );
    expect(seen.carriers).toEqual(["long-1", "long-2", "long-1"]);
    expect(seen.silences).toHaveLength(1);
    expect(seen.silences[0].mostMs).toBeLessThan(300);
  });
});
