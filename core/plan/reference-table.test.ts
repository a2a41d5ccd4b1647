import { describe, expect, it } from "vitest";
import { fullPlan } from "../../tests/support/full-plan.ts";
import { pathText } from "./errors.ts";
import { readPlan } from "./index.ts";
import { eachReference, type Reference, references } from "./reference-table.ts";

/** Every reference of a plan that refers in every way, with its path. */
function referencesIn(plan: ReturnType<typeof fullPlan>) {
  const found: { path: PropertyKey[]; reference: Reference }[] = [];
  eachReference(plan, references, [], (_text, reference, path) => found.push({ path, reference }));
  return found;
}

/** How a name that the plan does not have is written. */
const nowhere: Partial<Record<Reference["form"], string>> = {
  end: "nowhere/eth0",
  element: "link:nowhere",
  target: "fe80::2%nowhere",
};

function withText(plan: ReturnType<typeof fullPlan>, path: readonly PropertyKey[], text: string): unknown {
  const copy = structuredClone(plan);
  const holder = path
    .slice(0, -1)
    .reduce<Record<PropertyKey, never>>((part, key) => part[key], copy as never);
  (holder as Record<PropertyKey, unknown>)[path[path.length - 1]] = text;
  return copy;
}

describe("the table of references", () => {
  const plan = fullPlan();
  // Zones are what interfaces and policies say; a dismissal may outlast its device.
  const all = referencesIn(plan).filter(
    ({ reference, path }) => reference.form !== "zone" && path[0] !== "dismissals",
  );

  it("reaches every kind of reference in a plan that refers in every way", () => {
    const forms = new Set(all.map(({ reference }) => reference.form));
    expect([...forms].sort()).toEqual(
      [
        ...[
          "carrier",
          "device",
          "element",
          "end",
          "endOrDevice",
          "interface",
          "link",
          "monitored",
          "profile",
        ],
        ...["receiver", "source", "target", "watch"],
      ].sort(),
    );
  });

  it.each(all.map((one) => [pathText(one.path), one] as const))(
    "%s must name what there is",
    (at, { path, reference }) => {
      const read = readPlan(withText(plan, path, nowhere[reference.form] ?? "nowhere"));
      const errors = read.ok ? [] : read.errors.map((error) => error.path);
      // The schema may refuse the item before, such as a pair whose active device is not among its members.
      const item = pathText(path.slice(0, 2));
      expect(errors.filter((error) => error === at || error === `${item}.active`)).not.toEqual([]);
    },
  );
});
