import type { Collector } from "../../facts/index.ts";
import { type Located, LocatedJson } from "../located.ts";
import type { InputFile, Reader } from "../reader.ts";
import { settleMasters, takeLink } from "./link.ts";
import { takeNeighbour, takeNetconf, takeRule } from "./others.ts";
import { takeRoute } from "./route.ts";

type Take = (value: unknown, at: Located & { file: string }, into: Collector) => void;

const has = (value: unknown, ...keys: string[]) =>
  typeof value === "object" && value !== null && keys.every((key) => key in value);

/** What the objects of a list are, by the keys that they have. */
function takerOf(value: unknown): Take | null {
  if (has(value, "ifname")) return takeLink;
  if (has(value, "priority") && (has(value, "table") || has(value, "src"))) return takeRule;
  if (has(value, "interface", "family")) return takeNetconf;
  if (has(value, "dst", "state") && !has(value, "protocol")) return takeNeighbour;
  return has(value, "dst") ? takeRoute : null;
}

/** iproute2's JSON: addresses, links, routes, rules, neighbours, forwarding. */
export const iproute2Json: Reader = {
  kind: "iproute2 JSON",
  recognises({ text }) {
    if (!text.trimStart().startsWith("[")) return 0;
    return /"(ifname|dst|priority|forwarding)"\s*:/.test(text.slice(0, 4000)) ||
      /^\s*\[[\s{}]*\]\s*$/.test(text)
      ? 0.9
      : 0;
  },
  read(file: InputFile, into: Collector) {
    const json = LocatedJson.read(file, into);
    if (!json) return;
    for (const element of json.elements()) {
      const at = { ...element, file: file.name };
      if (has(element.value) && Object.keys(element.value as object).length === 0) {
        into.fate(at, "known", "an empty entry");
        continue;
      }
      const take = takerOf(element.value);
      if (take) take(element.value, at, into);
      else into.fate(at, "not-understood", "not an interface, route, rule or neighbor");
    }
    settleMasters(into);
    into.settleByMetric();
  },
};
