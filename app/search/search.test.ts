import { describe, expect, it } from "vitest";
import { deviceHref, hrefOf, pageHref, toggleHref, withParam, withParams } from "./links.ts";
import { routeColumns, routeFilterOf } from "./route-filter.ts";
import { viewOf } from "./view.ts";

const params = (text: string) => new URLSearchParams(text);
const under = params("down=link:north-ring&down=device:office-fw&flow=tickets&find=10.0.0.0/8");
const stopped = params("outage=north-dark&at=1500&down=link:x");
const pages = [
  "map",
  "routes",
  "add-routes",
  "summaries",
  "paths",
  "failure-report",
  "timeline",
  "failures",
  "findings",
  "changes",
] as const;
const queryOf = (href: string) => params(href.slice(href.indexOf("?")));

describe("links keep the conditions", () => {
  it.each(pages)("to %s", (page) => {
    expect(queryOf(pageHref("7", page, under)).getAll("down")).toEqual([
      "link:north-ring",
      "device:office-fw",
    ]);
    const moment = queryOf(pageHref("7", page, stopped));
    expect([moment.get("outage"), moment.get("at"), moment.get("down")]).toEqual([
      "north-dark",
      "1500",
      "link:x",
    ]);
  });

  it("to a device, and another question drops the old one only", () => {
    expect(queryOf(deviceHref("7", "office-fw", under, { lookup: "10.0.0.1" })).getAll("down")).toHaveLength(
      2,
    );
    const asked = queryOf(pageHref("7", "paths", under, { from: "a", to: "b" }));
    expect([asked.get("flow"), asked.get("from"), asked.getAll("down").length]).toEqual([null, "a", 2]);
  });

  it("of the question field, whatever it suggests", () => {
    const route = {
      page: "device",
      label: "x",
      detail: "",
      device: "d",
      params: { lookup: "10.0.0.1" },
    } as never;
    expect(queryOf(hrefOf("7", route, under)).getAll("down")).toHaveLength(2);
    const fail = { page: "map", label: "x", detail: "", fail: "link:new", params: {} } as never;
    expect(queryOf(hrefOf("7", fail, under, "/plans/7/routes")).getAll("down")).toEqual([
      "link:north-ring",
      "device:office-fw",
      "link:new",
    ]);
  });

  it("a toggle fails what is up and restores what is down, and leaves all else", () => {
    const failed = toggleHref("/plans/7/map", under, "link:other");
    expect(failed).toContain("down=link:other");
    expect(toggleHref("/plans/7/map", queryOf(failed), "link:other")).toBe(
      toggleHref("/plans/7/map", under, "x").replace("&down=x", ""),
    );
  });

  it("a parameter is set, set several times, and taken out", () => {
    expect(withParam(under, "sort", "-to")).toContain("sort=-to");
    expect(withParam(under, "flow", null)).not.toContain("flow");
    expect(queryOf(withParams(under, "state", ["standby", "unusable"])).getAll("state")).toEqual([
      "standby",
      "unusable",
    ]);
    expect(withParams(params("state=a&down=b"), "state", [])).toBe("?down=b");
  });
});

describe("an address is read", () => {
  it("as it was written, and what is nonsense is left open", () => {
    expect(viewOf(under).down).toEqual(["link:north-ring", "device:office-fw"]);
    expect(viewOf(stopped).moment).toEqual({ outage: "north-dark", fail: [], healMs: null, atMs: 1500 });
    expect(viewOf(params("at=soon&outage=x")).moment).toBeNull();
    expect(viewOf(params("protocol=tcp&port=99999")).asked.port).toBeUndefined();
    expect(viewOf(params("protocol=smoke")).asked.protocol).toBeUndefined();
  });

  it("what is down in the conditions is the failure where a moment names none", () => {
    expect(viewOf(params("at=0&down=link:x")).moment?.fail).toEqual(["link:x"]);
  });

  it("the filter of Routes: every column sorts, both ways", () => {
    for (const column of routeColumns) {
      expect(routeFilterOf(params(`sort=${column}`))).toMatchObject({ sort: column, descending: false });
      expect(routeFilterOf(params(`sort=-${column}`))).toMatchObject({ sort: column, descending: true });
    }
    expect(routeFilterOf(params("sort=colour&relation=beside"))).toMatchObject({
      sort: "to",
      relation: "covered",
    });
  });
});
