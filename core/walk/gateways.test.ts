import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import { NetworkModel } from "../scenario/index.ts";

describe("the gateways of a plan that names none", () => {
  it("keep their places, and so their letters, when routes are written in another order", () => {
    const routes = [
      { to: "0.0.0.0/0", via: "10.0.2.2", distance: 50 },
      { to: "0.0.0.0/0", via: "10.0.1.2" },
      { to: "0.0.0.0/0", via: "10.0.1.3", distance: 90 },
    ];
    const ids = (list: object[]) =>
      NetworkModel.compile(
        planOf({
          devices: [
            {
              id: "edge",
              role: "router",
              interfaces: [
                { name: "a", addresses: ["10.0.1.1/24"] },
                { name: "b", addresses: ["10.0.2.1/24"] },
              ],
              routes: list,
            },
          ],
          links: [
            { id: "a", medium: "switch", ends: ["edge/a"] },
            { id: "b", medium: "switch", ends: ["edge/b"] },
          ],
        }),
      ).gateways.map(({ id }) => id);
    const names = ["edge/a via 10.0.1.2", "edge/a via 10.0.1.3", "edge/b"];
    expect(ids(routes)).toEqual(names);
    expect(ids([...routes].reverse())).toEqual(names);
  });
});
