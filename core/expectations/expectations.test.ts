import { describe, expect, it } from "vitest";
import { engineOf, planOf } from "../../tests/support/plans.ts";
import { findAll } from "../findings/index.ts";
import { formatElement } from "../network/index.ts";
import type { Flow } from "../plan/index.ts";
import { sweepFlows } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { flowQuestions } from "../walk/index.ts";
import { brokenExpectations, endsOfFlow, isOwnEnd, unsurvived } from "./index.ts";

const flow: Flow = {
  id: "f",
  from: "a",
  to: "b",
  expect: { survive: 1, maxOutageMs: 3000, carriers: ["north"] },
};
const works = { verdict: "works" as const, carriers: ["north"], outageMs: { min: 0, max: 0 } };
const fails = { verdict: "fails" as const, carriers: [], outageMs: { min: null, max: null } };

describe("what a flow must do, judged in one place", () => {
  it.each([
    ["works", { ...works, failures: 0, ownEnd: false }, []],
    ["fails with nothing failed", { ...fails, failures: 0, ownEnd: false }, ["works"]],
    ["fails with one failure", { ...fails, failures: 1, ownEnd: false }, ["survive"]],
    ["fails with its own end", { ...fails, failures: 1, ownEnd: true }, []],
    ["fails with more than it must survive", { ...fails, failures: 2, ownEnd: false }, []],
    [
      "is out too long",
      { ...works, outageMs: { min: 0, max: 3001 }, failures: 1, ownEnd: false },
      ["outage"],
    ],
    ["another gateway carries", { ...works, carriers: ["bay"], failures: 1, ownEnd: false }, ["carriers"]],
  ])("%s", (_what, now, kinds) => {
    expect(brokenExpectations(flow, now).map(({ kind }) => kind)).toEqual(kinds);
  });

  /** desk – r – (a | b) – s – server; the cables of desk and server are theirs alone. */
  const plan = planOf({
    devices: [
      {
        id: "desk",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
      },
      ...[
        ["r", "10.1.0.1/24", "192.0.2.1/30", "192.0.2.5/30", "10.2.0.0/24", "192.0.2.2", "192.0.2.6"],
        ["s", "10.2.0.1/24", "192.0.2.2/30", "192.0.2.6/30", "10.1.0.0/24", "192.0.2.1", "192.0.2.5"],
      ].map(([id, lan, a, b, to, via, other]) => ({
        id,
        role: "router",
        interfaces: [
          { name: "lan", addresses: [lan] },
          { name: "a", addresses: [a] },
          { name: "b", addresses: [b] },
        ],
        routes: [
          { to, via },
          { to, via: other, distance: 20 },
        ],
      })),
      {
        id: "server",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.2.0.1" }],
      },
    ],
    links: [
      { id: "la", ends: ["desk/e", "r/lan"] },
      { id: "a", ends: ["r/a", "s/a"] },
      { id: "b", ends: ["r/b", "s/b"] },
      { id: "lb", ends: ["server/e", "s/lan"] },
    ],
    flows: [{ id: "f", from: "desk", to: "server", expect: { survive: 1 } }],
  });

  it("leaves out the ends' own interfaces, cables and devices, the same on board, sheet and finding", () => {
    const engine = engineOf(plan);
    const [{ question }] = flowQuestions(engine.network);
    const [{ swept }] = sweepFlows(engine, engine.gateways, 1);
    const left = unsurvived(engine.network, question, swept).map(({ failed }) =>
      failed.map((element) => formatElement(engine.network, element)),
    );
    expect(left).toEqual([["device:r"], ["device:s"]]);
    const [finding] = findAll(NetworkModel.compile(plan)).filter(
      ({ code }) => code === "single-point-of-failure",
    );
    expect(finding.evidence.map((e) => (e.kind === "path" ? e.failed : []))).toEqual(left);
    expect(finding.text).toContain("own endpoints");
    const ends = endsOfFlow(engine.network, question);
    expect(ends.devices.map((d) => engine.network.devices[d].id)).toEqual(["desk", "server"]);
    for (const { failed } of swept.failures) {
      const ref = formatElement(engine.network, failed[0]);
      const own = /^(device:(desk|server)|link:l[ab]|interface:(desk|server)\/e|interface:[rs]\/lan)$/.test(
        ref,
      );
      expect([ref, isOwnEnd(engine.network, ends, failed[0])]).toEqual([ref, own]);
    }
  });
});
