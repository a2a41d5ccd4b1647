import { describe, expect, it } from "vitest";
import { movedPages, movedTo } from "./moved-pages.ts";

describe("addresses of earlier versions", () => {
  it("lead to the page that took their place, in the same plan", () => {
    expect(movedTo("/plans/12/desk")).toBe("/plans/12/add-routes");
    expect(movedTo("/plans/12/exchange/devices")).toBe("/plans/12/polling");
    expect(movedTo("/plans/$&/time")).toBe("/plans/$&/timeline");
    expect(movedTo("/record")).toBe("/audit-log");
  });

  it("are none of today's, and no chain", () => {
    for (const target of Object.values(movedPages)) expect(movedTo(target.replace(":plan", "1"))).toBeNull();
    for (const path of ["/plans/1/map", "/plans", "/__proto__", "/plans/1/constructor", "/plans/1/2/desk"])
      expect(movedTo(path)).toBeNull();
  });
});
