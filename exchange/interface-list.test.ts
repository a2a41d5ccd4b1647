import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { applyEdit } from "../core/plan/index.ts";
import { demoPlan } from "../tests/support/plans.ts";
import { readInterfaceList } from "./interface-list.ts";

const plan = demoPlan("three-routers");

describe("a pasted list of interfaces", () => {
  it("adds devices that are new, and interfaces and addresses to those that are not", () => {
    const list = readInterfaceList(
      "# from the cupboard\nname,interface,address\nnorth,lan,10.9.0.1/24,firewall\nnorth;lo;10.9.9.9/32;loopback\nwest\tspare\t10.8.0.1/24\twhatever\nwest\tspare2\t10.8.1.1\t255.255.255.0",
      plan,
      null,
    );
    expect(list.lines.map((line) => [line.line, line.ok])).toEqual([
      [3, true],
      [4, true],
      [5, false],
      [6, true],
    ]);
    expect(list.lines[2].says).toContain('"whatever" is not an address');
    expect(list.edit).toBeNull();
    const sound = readInterfaceList(
      "north,lan,10.9.0.1/24\nwest\tspare2\t10.8.1.1\t255.255.255.0",
      plan,
      null,
    );
    const outcome = sound.edit && applyEdit(plan, sound.edit);
    if (!outcome?.ok) throw new Error("not taken");
    expect(outcome.plan.devices.find((d) => d.id === "west")?.interfaces.at(-1)).toEqual({
      name: "spare2",
      addresses: ["10.8.1.1/24"],
    });
    expect(outcome.plan.devices.at(-1)).toMatchObject({ id: "north", role: "router" });
  });

  it("is separated by spaces as well, with a mask behind its address", () => {
    const list = readInterfaceList(
      "north lan 10.44.2.1 255.255.255.0\nnorth, wan, 10.44.3.1 255.255.255.252",
      plan,
      null,
    );
    expect(list.lines.map(({ says }) => says)).toEqual([
      "new router north, lan 10.44.2.1/24",
      "new router north, wan 10.44.3.1/30",
    ]);
  });

  it("adds addresses to an interface that is there, and nothing where all is there", () => {
    const west = plan.devices.find((d) => d.id === "west");
    const port = west?.interfaces[0];
    const known = readInterfaceList(`${port?.name}, ${port?.addresses[0]}`, plan, "west");
    expect(known).toMatchObject({ edit: null, lines: [{ ok: true }] });
    const more = readInterfaceList(`west, ${port?.name}, 10.77.0.1/24`, plan, "west");
    expect(more.edit?.changes).toMatchObject([
      { after: { addresses: [...(port?.addresses ?? []), "10.77.0.1/24"] } },
    ]);
  });

  it.each([
    ["west", null, "interface missing"],
    ["West Wing, lan, 10.0.0.1/24", null, "is not a device id"],
    ["west, lan, 10.0.0.0/24", null, "is the network address"],
    ["west, lan, 10.0.0.1/40", null, "from 0 to 32"],
    ["x1, lan, 10.0.0.1/24\nx1, lan, 10.0.1.1/24", null, "appears twice"],
  ])("%s is not understood, and says why", (text, device, says) => {
    const list = readInterfaceList(text, plan, device);
    expect(list.edit).toBeNull();
    expect(list.lines.find((line) => !line.ok)?.says).toContain(says);
  });

  it("never throws, and what it takes is a sound edit", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.constantFrom(
            "west",
            "lan",
            "10.0.0.1/24",
            ",",
            "\t",
            "\n",
            "255.0.0.0",
            "loopback",
            "host",
            "::1/64",
            "é",
          ),
          { maxLength: 20 },
        ),
        (parts) => {
          const { edit } = readInterfaceList(parts.join(""), plan, null);
          if (edit) expect(applyEdit(plan, edit).ok).toBe(true);
        },
      ),
      { numRuns: 300 },
    );
  });
});
