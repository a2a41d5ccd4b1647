import { describe, expect, it } from "vitest";
import { compile } from "../../core/network/index.ts";
import type { Plan } from "../../core/plan/index.ts";
import { demoPlan, planOf } from "../../tests/support/plans.ts";
import { bundleOfTwo } from "../../tests/support/shared-plans.ts";
import { openedIn, openedText, openHref } from "../search/opened.ts";
import { layoutOf } from "./layout.server.ts";
import { withPins } from "./lines.ts";
import { trunksOf } from "./trunks.ts";

const plan = demoPlan("cases/pair-that-forgets");
const [pair] = plan.pairs;
const [one, other] = pair.members;
const standby = one === pair.active ? other : one;

describe("a pair on the drawing", () => {
  it("is two plates where it is opened, or nobody asks for folding", async () => {
    for (const drawing of [await layoutOf(plan), await layoutOf(plan, [pair.id])]) {
      const boxes = [one, other].map((id) => drawing.nodes.find((node) => node.id === id));
      expect(boxes[0]?.x === boxes[1]?.x && boxes[0]?.y === boxes[1]?.y).toBe(false);
      expect(boxes.every((box) => box?.pair === undefined && box?.plate === undefined)).toBe(true);
    }
  });

  it("is one plate where it is folded; whoever looks for a member or its line finds it", async () => {
    const drawing = await layoutOf(plan, []);
    const box = (id: string) => drawing.nodes.find((node) => node.kind === "device" && node.id === id);
    expect(box(standby)).toEqual({ ...box(pair.active), id: standby, plate: pair.active, pair: pair.id });
    const inside = (link: (typeof plan.links)[number]) =>
      link.ends.every((end) => pair.members.includes(end.slice(0, end.indexOf("/"))));
    for (const link of plan.links) {
      const parts = drawing.edges.filter((edge) => edge.link === link.id).map(({ part }) => part);
      const wanted = inside(link) ? [] : link.ends.length === 2 ? [0] : [...link.ends.keys()];
      expect([link.id, parts.sort()]).toEqual([link.id, wanted]);
    }
    expect(plan.links.some(inside)).toBe(true);
  });

  it("is pinned as one", async () => {
    const drawing = withPins(await layoutOf(plan, []), new Map([[pair.active, { x: 7, y: 9 }]]));
    const places = drawing.nodes.filter(({ id }) => pair.members.includes(id)).map(({ x, y }) => [x, y]);
    expect(places).toEqual([
      [7, 9],
      [7, 9],
    ]);
  });
});

describe("which pairs are open stands in the address", () => {
  const params = new URLSearchParams("down=link:a&open=walls");

  it("and is read from there; all are while the network is edited", () => {
    expect(openedIn(params)).toEqual(["walls"]);
    expect(openedIn(new URLSearchParams(""))).toEqual([]);
    expect(openedIn(new URLSearchParams("edit=device:a"))).toBe("all");
    expect(openedIn(new URLSearchParams(openedText(["b", "a"])))).toEqual(["a", "b"]);
    expect(openedIn(new URLSearchParams(openedText("all")))).toBe("all");
  });

  it("and is opened and folded without losing what else is there", () => {
    expect(openHref(params, "doors", true)).toBe("?down=link%3Aa&open=walls&open=doors");
    expect(openHref(params, "walls", false)).toBe("?down=link%3Aa");
  });
});

describe("lines between the same two interfaces", () => {
  const bundled = bundleOfTwo();
  const turned = planOf({
    ...bundled,
    links: bundled.links.map((link) => (link.id === "b2" ? { ...link, ends: link.ends.toReversed() } : link)),
  });

  it("are found by what they are built of: members of a bundle, tags on one interface, tags on a bundle", () => {
    const names = (plan: Plan) => trunksOf(compile(plan)).map(({ links, texts }) => [links.join(), ...texts]);
    expect(names(bundled)).toEqual([["b1,b2", "agg 192.0.2.1", "agg 192.0.2.2"]]);
    const tag = (n: number) => ({ name: "agg.7", parent: "agg", vlan: 7, addresses: [`10.7.0.${n}/30`] });
    const tagged = planOf({
      ...bundled,
      devices: bundled.devices.map((device) =>
        device.role === "router"
          ? { ...device, interfaces: [...device.interfaces, tag(device.id === "r1" ? 1 : 2)] }
          : device,
      ),
      links: [...bundled.links, { id: "seven", ends: ["r2/agg.7", "r1/agg.7"] }],
    });
    expect(names(tagged)).toEqual([["b1,b2,seven", "agg 192.0.2.1", "agg 192.0.2.2"]]);
    // Two cables between two devices that nothing joins are two lines.
    const plain = bundled.devices.map((device) => ({
      ...device,
      interfaces: device.interfaces.filter(({ kind }) => kind !== "bundle"),
      routes: [],
    }));
    expect(names(planOf({ ...bundled, devices: plain, flows: [] }))).toEqual([]);
  });

  it("are one line where they are folded, which each of them has from its own first end on", async () => {
    for (const plan of [bundled, turned]) {
      const drawing = await layoutOf(plan, []);
      const [one, other] = ["b1", "b2"].map((id) => drawing.edges.find((edge) => edge.link === id));
      const same = plan === bundled ? other : other && { ...other, points: other.points.toReversed() };
      expect(same?.points).toEqual(one?.points);
      expect([one?.trunk, other?.trunk]).toEqual(["lines:b1", "lines:b1"]);
    }
  });

  it("are drawn one by one where they are opened, or nobody asks for folding", async () => {
    for (const drawing of [await layoutOf(bundled), await layoutOf(bundled, ["lines:b1"])]) {
      const [one, other] = ["b1", "b2"].map((id) => drawing.edges.find((edge) => edge.link === id));
      expect(one?.points).not.toEqual(other?.points);
      expect([one?.trunk, other?.trunk]).toEqual([undefined, undefined]);
    }
  });
});
