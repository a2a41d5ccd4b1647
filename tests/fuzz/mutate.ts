import type { Random } from "../support/random.ts";

/** Text that has broken something somewhere before: markup, odd characters, numbers at an edge, paths, much of one thing. */
export const hostileText = [
  "",
  " ",
  "\0",
  "\ud800",
  "a\udc00b",
  "<img src=x onerror=alert(1)>",
  "</script><script>alert(1)</script>",
  "'; drop table plan; --",
  "../../../../etc/passwd",
  "//evil.example/",
  "/\\evil.example",
  "__proto__",
  "constructor",
  "toString",
  "-1",
  "99999999999999999999",
  "1e309",
  "NaN",
  "0x10",
  "255.255.255.255/33",
  "::ffff:1.2.3.4/96",
  "fe80::1%",
  "fe80::1%eth0",
  "0.0.0.0/0",
  "::/0",
  "10.0.0.1",
  "１０.0.0.1",
  "link:",
  "interface:a/b/c/d",
  "device:office-fw",
  "\u202eabc",
  "😀".repeat(50),
  "x".repeat(5000),
  "a\n".repeat(500),
  "[".repeat(300),
  "{a: ".repeat(300),
  "&a *a",
] as const;

const hostileValues: readonly unknown[] = [
  null,
  true,
  0,
  -1,
  0.5,
  2 ** 31,
  2 ** 53,
  -(2 ** 63),
  [],
  {},
  [[]],
  { ironFork: 1 },
];

/** Any value: text, number, list or group, as hostile as they come. */
function hostileValue(random: Random): unknown {
  if (random.chance(0.6)) return random.pick(hostileText);
  if (random.chance(0.1)) return nested(random.below(400));
  // A copy: inserted values may be modified, and must neither affect the next document nor contain themselves.
  return structuredClone(random.pick(hostileValues));
}

function nested(depth: number): unknown {
  let value: unknown = [];
  for (let i = 0; i < depth; i++) value = i % 2 ? [value] : { a: value };
  return value;
}

/** A copy of a value with a few places removed, duplicated, exchanged, or replaced by hostile values. */
export function mutated(value: unknown, random: Random, times = 1 + random.below(4)): unknown {
  let copy = structuredClone(value);
  for (let n = 0; n < times; n++) copy = mutateOnce(copy, random);
  return copy;
}

function mutateOnce(root: unknown, random: Random): unknown {
  const places: { holder: Record<string, unknown>; key: string }[] = [];
  const visit = (value: unknown) => {
    if (typeof value !== "object" || value === null || places.length > 5000) return;
    for (const key of Object.keys(value)) {
      places.push({ holder: value as Record<string, unknown>, key });
      visit((value as Record<string, unknown>)[key]);
    }
  };
  visit(root);
  if (places.length === 0) return hostileValue(random);
  const { holder, key } = random.pick(places);
  const other = random.pick(places);
  switch (random.below(6)) {
    case 0:
      if (Array.isArray(holder)) holder.splice(Number(key), 1);
      else delete holder[key];
      break;
    case 1:
      if (Array.isArray(holder)) holder.push(structuredClone(holder[Number(key)]));
      else holder[random.pick(hostileText)] = structuredClone(holder[key]);
      break;
    case 2:
      holder[key] = structuredClone(other.holder[other.key]);
      break;
    default:
      holder[key] = hostileValue(random);
  }
  return root;
}

/** Text with a few parts removed, duplicated, repeated or exchanged. */
export function mutatedText(text: string, random: Random): string {
  let now = text;
  for (let n = 1 + random.below(3); n > 0; n--) {
    const at = random.below(now.length + 1);
    const length = random.below(random.chance(0.2) ? 2000 : 40);
    const part = now.slice(at, at + length);
    switch (random.below(5)) {
      case 0:
        now = now.slice(0, at) + now.slice(at + length);
        break;
      case 1:
        now = now.slice(0, at) + part.repeat(1 + random.below(30)) + now.slice(at);
        break;
      case 2:
        now = now.slice(0, at);
        break;
      case 3:
        now =
          now.slice(0, at) +
          random
            .pick(["\n", "\t", "\r", "{", "[", "- ", ": ", "&a ", "*a", "'", '"', "#", "|\n", "? "])
            .repeat(1 + random.below(200)) +
          now.slice(at);
        break;
      default:
        now = now.slice(0, at) + random.pick(hostileText) + now.slice(at + length);
    }
  }
  return now;
}

/** Bytes with a few of them changed, removed or added. */
export function mutatedBytes(bytes: Uint8Array, random: Random): Uint8Array {
  const list = Array.from(bytes.subarray(0, 200 + random.below(8000)));
  for (let n = 1 + random.below(8); n > 0; n--) {
    const at = random.below(list.length + 1);
    const doing = random.below(4);
    if (doing < 2) list[at] = random.pick([0, 1, 0x7f, 0x80, 0xff, random.below(256)]);
    else if (doing === 2) list.splice(at, random.below(60));
    else list.splice(at, 0, ...Array.from({ length: random.below(60) }, () => random.below(256)));
  }
  return Uint8Array.from(list, (byte) => byte ?? 0);
}
