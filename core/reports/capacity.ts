import { type Load, loadsOf, overloadsIn } from "../failures/index.ts";
import { type ElementNumber, findElement } from "../network/index.ts";
import { type Engine, settle, variantsOf, worldsOf } from "../settle/index.ts";
import type { Timeline } from "../timeline/index.ts";
import type { FlowQuestion, GatewayRecord, World } from "../walk/index.ts";
import { crowdedText } from "../words/index.ts";

/** A time span of an outage with an overload; `toMs` null is open-ended. */
export interface CrowdedSpan {
  readonly fromMs: number;
  readonly toMs: number | null;
  readonly text: string;
}

/** Reports overloads, in the current state and after one more failure (rule 19). Reports nothing for plans without
 * capacities. */
export class OverloadReporter {
  private readonly loads: readonly Load[];

  constructor(
    private readonly engine: Engine,
    private readonly gateways: readonly GatewayRecord[],
    flows: readonly FlowQuestion[],
  ) {
    this.loads = loadsOf(engine.network, flows);
  }

  /** Overloads under further failures, by reference; an empty list is the current state. */
  under(failed: readonly string[]): string[] {
    if (this.loads.length === 0) return [];
    const elements = failed
      .map((ref) => findElement(this.engine.network, ref))
      .filter((element): element is ElementNumber => element !== null);
    return this.told(worldsOf(settle(this.engine, elements)));
  }

  /** In the course of an outage, in its longest case; times from its first failure, at `startMs`. */
  inTime({ longest }: Timeline, startMs: number): CrowdedSpan[] {
    if (this.loads.length === 0) return [];
    const spans: { fromMs: number; toMs: number | null; text: string }[] = [];
    const open = new Map<string, (typeof spans)[number]>();
    for (const { atMs, world } of longest.moments) {
      const now = new Set(this.told(variantsOf(world)));
      const fromMs = Math.max(0, Math.ceil(atMs - startMs));
      for (const [text, span] of open) {
        if (now.has(text)) continue;
        span.toMs = fromMs;
        open.delete(text);
      }
      for (const text of now) {
        if (open.has(text)) continue;
        const span = { fromMs, toMs: null, text };
        open.set(text, span);
        spans.push(span);
      }
    }
    // Several things may happen at one moment: what did not last was not there.
    return spans.filter(({ fromMs, toMs }) => toMs !== fromMs);
  }

  private told(worlds: readonly World[]): string[] {
    const { gateways, loads } = this;
    return overloadsIn(worlds, gateways, loads, []).map((over) =>
      crowdedText(
        this.engine.network,
        gateways,
        over,
        over.flows.map((f) => loads[f].id),
      ),
    );
  }
}
