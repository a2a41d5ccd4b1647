import { formatElement } from "../network/index.ts";
import type { Engine } from "../settle/index.ts";
import { doesAsExpected, type GatewayRecord, type Question } from "../walk/index.ts";
import { failuresOf } from "./sweep.ts";

/** The single failures that break each question, by reference; empty if the question already fails with nothing failed.
 * */
export function breakersOf(
  engine: Engine,
  gateways: readonly GatewayRecord[],
  questions: readonly Question[],
): { readonly works: boolean; readonly breakers: ReadonlySet<string> }[] {
  return failuresOf(engine, gateways, questions, 1).map(({ nominal, failures }, i) => {
    const works = doesAsExpected(questions[i], nominal);
    const breaking = works ? failures.filter((failure) => !doesAsExpected(questions[i], failure)) : [];
    const breakers = new Set(breaking.map(({ failed }) => formatElement(engine.network, failed[0])));
    return { works, breakers };
  });
}
