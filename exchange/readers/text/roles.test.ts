import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Layout, TokenRole } from "../../layout.ts";
import { readFiles } from "../../readings.ts";
import { Meanings } from "../meanings.ts";
import { recognised, shapeOfLine } from "./layouts.ts";
import { colourTable } from "./table.ts";

const rolesIn = (text: string, layouts: Layout[] = []) =>
  colourTable({ name: "tern.txt", text }, { meanings: new Meanings(), layouts }, 100).lines.map(
    ({ text: line, tokens }) =>
      tokens.map(({ start, end, role }) => `${line.slice(start, end)}=${role}`).join(" "),
  );

describe("the role of each token of a text table", () => {
  it.each([
    [
      "S 172.20.64.0/19 [5/20] via 172.20.0.2, core, 3d04h",
      "S=word 172.20.64.0/19=to 5/20=pair via=ignored 172.20.0.2=via core=out 3d04h=ignored",
    ],
    ["10.9.0.0 255.255.0.0 10.0.0.2 7", "10.9.0.0=to 255.255.0.0=mask 10.0.0.2=via 7=ignored"],
    ["2001:db8::/32 fe80::2%core 1024", "2001:db8::/32=to fe80::2%core=via 1024=metric"],
    ["lan 10.0.0.1/24 02:00:00:00:00:01", "lan=word 10.0.0.1/24=address 02:00:00:00:00:01=hardware"],
  ])("%s", (line, expected) => {
    expect(rolesIn(line)).toEqual([expected]);
  });

  it("never reaches out of its line, and tokens never overlap, whatever the text", () => {
    const word = fc.oneof(
      fc.constantFrom(
        "10.0.0.0/8",
        "10.0.0.1",
        "255.0.0.0",
        "[1/2]",
        "via",
        "S",
        "fe80::1%a",
        "default",
        "|",
        ",",
        "1:2:3",
      ),
      fc.string({ maxLength: 8 }),
    );
    fc.assert(
      fc.property(fc.array(fc.array(word, { maxLength: 9 }), { maxLength: 12 }), (lines) => {
        const text = lines.map((words) => words.join(" ")).join("\n");
        const { lines: rows } = colourTable({ name: "x.txt", text }, { meanings: new Meanings() }, 50);
        for (const { text: row, tokens } of rows) {
          let at = 0;
          for (const { start, end } of tokens) {
            expect(start).toBeGreaterThanOrEqual(at);
            expect(end).toBeLessThanOrEqual(row.length);
            at = end;
          }
        }
      }),
    );
  });
});

describe("a layout that was taught by its tokens", () => {
  // The metric follows the destination, before the next hop: the text itself does not indicate that.
  const text = "x 10.1.0.0/16 20 10.0.0.2 q7\nx 10.2.0.0/16 30 10.0.0.6 q8\n";
  const shape = shapeOfLine(text.split("\n")[0]);
  const roles: TokenRole[] = ["word", "to", "metric", "via", "out"];
  const layout: Layout = {
    ironForkLayout: 1,
    name: "quays",
    words: { x: "static" },
    shapes: { [shape]: roles },
  };

  it("reads every line of that shape so", () => {
    const { devices, openWords } = readFiles([{ name: "tern.txt", text }], { layouts: [layout] });
    expect(devices[0].facts.routes).toMatchObject([
      { to: "10.1.0.0/16", via: "10.0.0.2", out: "q7", metric: 20, source: "static" },
      { to: "10.2.0.0/16", via: "10.0.0.6", out: "q8", metric: 30, source: "static" },
    ]);
    expect([...openWords]).toEqual([]);
    expect(rolesIn(text, [layout])[0]).toBe("x=word 10.1.0.0/16=to 20=metric 10.0.0.2=via q7=out");
  });

  it("is recognised by the shapes of a text, and its words count only there", () => {
    const other = "x 10.1.0.0/16 via 10.0.0.2 on q7\n";
    expect(recognised(text.split("\n"), [layout]).map(({ name }) => name)).toEqual(["quays"]);
    expect(recognised(other.split("\n"), [layout])).toEqual([]);
    const { openWords } = readFiles([{ name: "fulmar.txt", text: other }], { layouts: [layout] });
    expect([...openWords.keys()]).toEqual(["x"]);
  });

  it("is passed over where a token is not what it says", () => {
    const wrong: Layout = { ...layout, shapes: { [shape]: ["out", "via", "to", "word", "to"] } };
    const { devices, questions } = readFiles([{ name: "tern.txt", text }], { layouts: [wrong] });
    // Without the layout the number stays open, so that no route is read before it is answered.
    expect(devices[0].facts.routes).toEqual([]);
    expect(questions).toMatchObject([{ column: "3", lines: [1, 2] }]);
    const answered = readFiles([{ name: "tern.txt", text }], {
      layouts: [wrong],
      roles: new Map([["3", "metric"]]),
    });
    expect(answered.devices[0].facts.routes.map(({ to, metric }) => [to, metric])).toEqual([
      ["10.1.0.0/16", 20],
      ["10.2.0.0/16", 30],
    ]);
  });
});
