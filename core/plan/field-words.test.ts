import { describe, expect, it } from "vitest";
import type { z } from "zod";
import { fieldValue, fieldWord } from "./field-words.ts";
import { describeItem, planSchema, watchSchema } from "./index.ts";

/** Every key that a plan can have. */
function keysOf(schema: z.ZodType, seen = new Set<unknown>()): string[] {
  if (seen.has(schema)) return [];
  seen.add(schema);
  const def = schema._zod.def as unknown as Record<string, unknown>;
  const inner = ["innerType", "in", "out", "element", "valueType"].flatMap((key) =>
    def[key] ? [def[key]] : [],
  );
  const shape = Object.entries((def.shape ?? {}) as Record<string, z.ZodType>);
  return [
    ...shape.map(([key]) => key),
    ...[...shape.map(([, value]) => value), ...inner, ...((def.options ?? []) as unknown[])].flatMap((part) =>
      keysOf(part as z.ZodType, seen),
    ),
  ];
}

describe("words for the keys of a plan", () => {
  it("have one for every key that is no word itself", () => {
    const raw = [...new Set(keysOf(planSchema))].filter(
      (key) => /[a-z][A-Z]/.test(key) && fieldWord(key) === key,
    );
    expect(raw.filter((key) => key !== "ironFork")).toEqual([]);
  });

  it("give times their unit", () => {
    expect(fieldValue("minRxMs", 300)).toBe("300 ms");
    expect(fieldValue("intervalMs", 10_000)).toBe("10 s");
    expect(fieldValue("priority", 300)).toBe("300");
  });

  it("describe a watch in a line", () => {
    const watch = watchSchema.parse({ id: "office", kind: "bfd", interface: "wan1", peer: "172.20.255.9" });
    const change = { in: "device", device: "x", collection: "watches", before: null, after: watch } as const;
    expect(describeItem(change, watch, () => "")).toBe(
      "office: BFD session to 172.20.255.9 on wan1, 300 ms × 3",
    );
  });
});
