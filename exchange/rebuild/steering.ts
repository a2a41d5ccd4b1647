import { parseAddress } from "../../core/address/index.ts";
import type { MarkRule } from "../../core/plan/index.ts";
import type { DeviceFacts, MarkFact, RuleFact } from "../facts/index.ts";
import { interfaceNameOf } from "./names.ts";
import { isSystem, type OnLink, once, staticOf } from "./routes.ts";

/** Tables of a kernel whose routes are those of the device itself. */
export const ownTables = new Set(["main", "local", "default"]);

/** Marks as a plan has them: rules of either family that differ in their prefixes alone are one. */
export function marksOf(facts: readonly MarkFact[]): MarkRule[] {
  const merged: MarkFact[] = [];
  for (const fact of facts) {
    const last = merged.at(-1);
    if (last && areTwins(last, fact))
      merged[merged.length - 1] = {
        ...last,
        from: [...new Set([...last.from, ...fact.from])],
        to: [...new Set([...last.to, ...fact.to])],
      };
    else merged.push(fact);
  }
  return merged.map(({ in: ports, from, to, port, ...more }) => ({
    ...more,
    ...(ports.length > 0 ? { in: ports.map((name) => interfaceNameOf(name)) } : {}),
    ...(from.length > 0 && !holdsAll(from) ? { from } : {}),
    ...(to.length > 0 ? { to } : {}),
    ...(port === undefined ? {} : { port: String(port) }),
  }));
}

const holdsAll = (prefixes: readonly string[]) =>
  ["0.0.0.0/0", "::/0"].every((all) => prefixes.includes(all));

/** Whether two marks are one, written once for IPv4 and once for IPv6. */
function areTwins(a: MarkFact, b: MarkFact): boolean {
  const rest = (mark: MarkFact) =>
    JSON.stringify({ ...mark, from: mark.from.length > 0, to: mark.to.length > 0 });
  const families = (mark: MarkFact) => new Set([...mark.from, ...mark.to].map((text) => text.includes(":")));
  const [of, other] = [families(a), families(b)];
  return rest(a) === rest(b) && of.size > 0 && ![...other].some((family) => of.has(family));
}

/** What a policy table asks for; a list that is empty takes anything. */
interface TableMatch {
  table: string;
  in: string[];
  from: string[];
  to: string[];
  protocol: RuleFact["protocol"];
  port: RuleFact["port"];
  mark: RuleFact["mark"];
}

/** Rules that lead to one table as the fewest equivalent matches: two merge if they differ in one list only. Rules of
 * other priorities between them prevent it. */
function matchesOf(rules: readonly RuleFact[]): TableMatch[] {
  const matches: TableMatch[] = [];
  for (const rule of [...rules].sort((a, b) => a.priority - b.priority)) {
    if (ownTables.has(rule.table)) continue;
    matches.push({
      table: rule.table,
      in: rule.in === null ? [] : [interfaceNameOf(rule.in)],
      from: rule.from === null ? [] : [rule.from],
      to: rule.to === undefined ? [] : [rule.to],
      protocol: rule.protocol,
      port: rule.port,
      mark: rule.mark,
    });
  }
  for (const list of ["from", "to", "in"] as const) {
    for (let n = 1; n < matches.length; n++) {
      const [before, own] = [matches[n - 1], matches[n]];
      const rest = (match: TableMatch) => JSON.stringify({ ...match, [list]: null });
      if (rest(before) !== rest(own) || (before[list].length === 0) !== (own[list].length === 0)) continue;
      before[list] = [...new Set([...before[list], ...own[list]])];
      matches.splice(n--, 1);
    }
  }
  return matches;
}

/** Tables that rules lead to, in the order of the rules: each asked before the main table. */
export function policyTablesOf(facts: DeviceFacts, onLink: OnLink): Record<string, unknown>[] {
  const names = new Map<string, number>();
  return matchesOf(facts.rules).map(({ table: name, protocol, port, mark, ...lists }) => {
    const count = (names.get(name) ?? 0) + 1;
    names.set(name, count);
    const own = interfaceNameOf(name);
    return {
      // A table that several rules lead to, each for other packets, is listed once per rule.
      name: count === 1 ? own : `${own}-${count}`,
      match: {
        ...Object.fromEntries(Object.entries(lists).filter(([, list]) => list.length > 0)),
        ...(protocol ? { protocol } : {}),
        ...(port ? { port } : {}),
        ...(mark === undefined ? {} : { mark }),
      },
      lookup: "first",
      routes: once(
        facts.routes
          .filter(
            (route) =>
              route.table === name && !isSystem(route) && parseAddress(route.via ?? "0.0.0.0") !== null,
          )
          .map((route) => staticOf(route, onLink, false)),
      ),
    };
  });
}
