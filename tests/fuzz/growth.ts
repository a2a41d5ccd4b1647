import { Collector } from "../../exchange/facts/index.ts";
import { readInterfaceList } from "../../exchange/interface-list.ts";
import { readPlanText } from "../../exchange/plan-text.ts";
import { Meanings, readers } from "../../exchange/readers/index.ts";
import { readFiles } from "../../exchange/readings.ts";
import { rebuildPlan } from "../../exchange/rebuild/plan.ts";
import { Framing } from "../../live/netconf-framing.ts";
import { partsOf } from "../../live/ways/ssh.ts";
import { timed } from "../support/cpu.ts";
import { planOf } from "../support/plans.ts";
import type { Random } from "../support/random.ts";
import { samples } from "./readings.ts";

const empty = planOf({ ironFork: 1, name: "empty" });

/** Whatever reads a text that is not ours, by name. */
const textReaders: Readonly<Record<string, (text: string) => void>> = {
  ...Object.fromEntries(
    readers.map((reader) => [
      reader.kind,
      (text: string) => {
        const file = { name: "device/file", text };
        reader.recognises(file);
        reader.read(file, new Collector(""), { meanings: new Meanings() });
      },
    ]),
  ),
  "all readers": (text) => {
    const readings = readFiles([{ name: "device/file", text }]);
    rebuildPlan(readings, "read");
  },
  "interface list": (text) => void readInterfaceList(text, empty, "r"),
  "plan document": (text) => void readPlanText(text),
  "answers by SSH": (text) => void partsOf(text),
  "messages by NETCONF": (text) => {
    const framing = new Framing();
    const bytes = Buffer.from(text);
    // In the smallest parts in which they can come, without paying for a call a byte.
    for (let at = 0; at < bytes.length; at += 16) framing.take(bytes.subarray(at, at + 16));
  },
};

/** The words and marks that texts are made of, from one of each kind. */
const tokens: readonly string[] = [
  ...new Set([
    ...samples.flatMap((text) => text.split(/\s+/)),
    ...samples.flatMap((text) => text.split(/([^\w\s]+)/)),
    ...samples.flatMap((text) => text.split("\n")),
    ..." \t,;:=.-/|[]{}()<>\"'#%*0a",
    "\n",
    "\r\n",
    "</",
    "]]>",
    "iron-fork-part 1\n",
    "iron-fork-part end",
    "- ",
    "? ",
    "&a ",
  ]),
].filter((token) => token !== "");
const joints = ["", " ", "\n", ": ", ", "];

/** A text that grows by repetition: its start, its repeated part, and its end. */
export interface Growing {
  readonly reader: string;
  readonly before: string;
  readonly piece: string;
  readonly behind: string;
}

export function anyGrowing(random: Random): Growing {
  const own = (chance: number) => (random.chance(chance) ? random.pick(tokens) : "");
  return {
    reader: random.pick(Object.keys(textReaders)),
    before: own(0.5),
    piece: `${random.pick(tokens)}${random.pick(joints)}${own(0.3)}`,
    behind: own(0.3),
  };
}

/** Milliseconds of processor time for a text of `length` characters. */
function msOf({ reader, before, piece, behind }: Growing, length: number): number {
  const text = before + piece.repeat(Math.ceil(length / piece.length)) + behind;
  return timed(() => textReaders[reader](text)).ms;
}

/** Below this time in milliseconds the result is noise. */
const MIN_MS = 120;
const SMALL = 20_000;

/** The exponent of a text's time in its length: about 1 if linear, 2 if quadratic. 0 if it is too short to measure. */
export function exponentOf(growing: Growing): number {
  // A quadratic reader shows at the first size that takes long enough.
  for (let length = SMALL; length <= SMALL * 16; length *= 4) {
    const ms = msOf(growing, length);
    if (ms < MIN_MS) continue;
    const [less, more] = [msOf(growing, length / 2), Math.min(ms, msOf(growing, length))];
    return Math.log2(more / Math.max(less, 0.5));
  }
  return 0;
}
