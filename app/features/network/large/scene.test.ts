import { describe, expect, it } from "vitest";
import type { Drawing } from "../../../drawing/types.ts";
import type { MapAnswer } from "../../../queries/map.ts";
import { moved, placeAt, scaleOf, seenIn, showing, zoomed } from "./camera.ts";
import { placeOf, standsFor, wider } from "./moving-picture.ts";
import { hitAt, nextPlate, sceneOf } from "./scene.ts";

/** Four devices at two sites, the corners of a square, joined along three of its sides. */
function square() {
  const places = { a: [0, 0], b: [1000, 0], c: [0, 1000], d: [1000, 1000] } as const;
  const device = (id: keyof typeof places) => ({
    id,
    label: id,
    role: "router",
    site: places[id][0] ? "east" : "west",
    up: id !== "d",
    outline: false,
    place: null,
  });
  const end = (id: string) => ({ device: id, interface: "e", text: "e .1", addresses: [], up: true });
  const link = (id: string, from: string, to: string, down = false) => ({
    id,
    label: id,
    medium: "cable",
    down,
    ends: [end(from), end(to)],
  });
  const answer: MapAnswer = {
    devices: [device("a"), device("b"), device("c"), device("d")],
    pairs: [],
    trunks: [],
    links: [link("ab", "a", "b"), link("ac", "a", "c"), link("cd", "c", "d", true)],
    flow: null,
  };
  const box = { width: 100, height: 34 };
  const middle = (id: string) => {
    const [x, y] = places[id as keyof typeof places];
    return { x: x + 50, y: y + 17 };
  };
  const drawing: Drawing = {
    width: 1100,
    height: 1034,
    nodes: Object.entries(places).map(([id, [x, y]]) => ({ id, kind: "device", x, y, ...box })),
    sites: [0, 1000].map((x) => ({
      id: x ? "east" : "west",
      kind: "site",
      x: x - 10,
      y: -10,
      width: 120,
      height: 1060,
    })),
    edges: answer.links.map(({ id, ends }) => ({
      link: id,
      part: 0,
      points: ends.map(({ device: at }) => middle(at)),
      labels: [null, null],
    })),
  };
  return sceneOf(answer, drawing, new Map());
}

describe("what is under a point of a large map", () => {
  const scene = square();

  it("is the plate that stands there, else the nearest line within reach", () => {
    expect(hitAt(scene, { x: 50, y: 10 }, 1, false)).toMatchObject({
      kind: "device",
      plate: { device: { id: "a" } },
    });
    expect(hitAt(scene, { x: 500, y: 21 }, 1, false)).toMatchObject({ kind: "link", line: { link: "ab" } });
    expect(hitAt(scene, { x: 500, y: 40 }, 1, false)).toBeNull();
    // Farther away the same pixels reach farther.
    expect(hitAt(scene, { x: 500, y: 40 }, 0.25, false)).toMatchObject({ line: { link: "ab" } });
  });

  it("is the whole site where sites are folded, with what of it is down", () => {
    expect(hitAt(scene, { x: 1050, y: 500 }, 0.1, true)).toMatchObject({
      kind: "site",
      sign: { site: { id: "east" }, devices: 2, down: 1 },
    });
    expect(scene.bundles).toEqual([expect.objectContaining({ links: 2, down: 1 })]);
  });

  it("is found by keys too: the next plate in a direction", () => {
    const at = (id: string) => {
      const plate = scene.plateOf.get(id);
      if (!plate) throw new Error(id);
      return plate;
    };
    expect(nextPlate(scene, at("a"), { x: 1, y: 0 })?.device.id).toBe("b");
    expect(nextPlate(scene, at("a"), { x: 0, y: 1 })?.device.id).toBe("c");
    expect(nextPlate(scene, at("d"), { x: 0, y: -1 })?.device.id).toBe("b");
    expect(nextPlate(scene, at("a"), { x: -1, y: 0 })).toBeNull();
  });
});

describe("the camera", () => {
  const camera = { box: { x: 0, y: 0, width: 1000, height: 1000 }, area: { width: 800, height: 400 } };

  it("fits its box into the window, with the room beside it", () => {
    expect(scaleOf(camera)).toBeCloseTo(0.4);
    expect(seenIn(camera)).toEqual({ x: -500, y: 0, width: 2000, height: 1000 });
  });

  it("keeps the place under the pointer where it zooms, and follows it where it is dragged", () => {
    const at = { x: 200, y: 100 };
    const nearer = zoomed(camera, 0.5, at);
    expect(scaleOf(nearer)).toBeCloseTo(0.8);
    expect(placeAt(nearer, at)).toEqual(placeAt(camera, at));
    const before = placeAt(camera, at);
    const after = placeAt(moved(camera, 40, 20), { x: 240, y: 120 });
    expect([after.x, after.y].map(Math.round)).toEqual([before.x, before.y].map(Math.round));
  });

  it("moves as little as brings a box into sight", () => {
    expect(showing(camera, { x: 100, y: 200, width: 50, height: 50 }).box).toEqual(camera.box);
    const seen = seenIn(showing(camera, { x: 1800, y: 300, width: 100, height: 34 }));
    expect(seen.x + seen.width).toBeGreaterThan(1900);
  });
});

describe("a picture that is moved about", () => {
  const drawing = { width: 1000, height: 600 };
  const area = { width: 500, height: 300 };
  const near = { box: { x: 300, y: 200, width: 250, height: 150 }, area };

  it("shows more than the window, at the same size, about the same middle", () => {
    const wide = wider(near);
    expect(scaleOf(wide)).toBeCloseTo(scaleOf(near));
    const [a, b] = [seenIn(near), seenIn(wide)];
    expect(b.x + b.width / 2).toBeCloseTo(a.x + a.width / 2);
    expect(b.width).toBeCloseTo(1.5 * a.width);
  });

  it("stands for what lies within it, and for nothing that it does not show", () => {
    const wide = wider(near);
    expect(standsFor(wide, near, drawing)).toBe(true);
    expect(standsFor(wide, moved(near, 100, 60), drawing)).toBe(true);
    expect(standsFor(wide, moved(near, 140, 0), drawing)).toBe(false);
    expect(standsFor(wide, moved(near, 0, -100), drawing)).toBe(false);
    const middle = { x: 250, y: 150 };
    expect(standsFor(wide, zoomed(near, 1 / 1.5, middle), drawing)).toBe(true);
    expect(standsFor(wide, zoomed(near, 1 / 2.5, middle), drawing)).toBe(false);
    expect(standsFor(wide, zoomed(near, 1.6, middle), drawing)).toBe(false);
    // Beside the drawing there is nothing to show.
    const whole = { box: { x: 0, y: 0, width: 1000, height: 600 }, area };
    expect(standsFor(wider(whole), zoomed(whole, 1.9, middle), drawing)).toBe(true);
  });

  it("is put where the drawing itself would be", () => {
    const later = zoomed(moved(near, 40, 10), 0.8, { x: 100, y: 100 });
    const at = placeOf(seenIn(wider(near)), later);
    const corner = placeAt(later, { x: at.x, y: at.y });
    expect(corner.x).toBeCloseTo(seenIn(wider(near)).x);
    expect(corner.y).toBeCloseTo(seenIn(wider(near)).y);
    expect(at.width / seenIn(wider(near)).width).toBeCloseTo(scaleOf(later));
  });
});
