import { describe, expect, it } from "vitest";
import { Random } from "../../../tests/support/random.ts";
import { overlaps, placeSigns } from "./sign-places.ts";

describe("names of sites, seen from afar", () => {
  it("stand in the middle of a site without plates", () => {
    const places = placeSigns([{ id: "a", text: "A", x: 0, y: 0, width: 400, height: 200 }], [], 0.3);
    const place = places.get("a");
    expect(place && [place.x + place.width / 2, place.y + place.height / 2]).toEqual([200, 100]);
  });

  it("cover no plate and no other name, whatever the sites hold", () => {
    let placed = 0;
    for (let seed = 1; seed <= 200; seed++) {
      const random = new Random(seed);
      const sites = Array.from({ length: 6 }, (_, n) => ({
        id: `s${n}`,
        text: "X".repeat(1 + random.below(60)),
        x: (n % 3) * 320 + random.below(20),
        y: Math.floor(n / 3) * 240,
        width: 100 + random.below(200),
        height: 60 + random.below(160),
      }));
      const plates = sites.flatMap((site) =>
        Array.from({ length: random.below(8) }, () => ({
          x: site.x + random.below(site.width - 60),
          y: site.y + 20 + random.below(site.height - 40),
          width: 60,
          height: 20,
        })),
      );
      const signs = [...placeSigns(sites, plates, 0.1 + random.below(26) / 100).values()];
      placed += signs.length;
      for (const [n, sign] of signs.entries()) {
        expect(plates.filter((plate) => overlaps(plate, sign))).toEqual([]);
        expect(signs.slice(n + 1).filter((other) => overlaps(other, sign))).toEqual([]);
      }
    }
    expect(placed).toBeGreaterThan(500);
  });
});
