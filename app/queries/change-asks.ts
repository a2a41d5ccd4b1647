import { breakersOf } from "../../core/failures/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import { type Preference, runbookOf } from "../../core/steps/index.ts";
import { type Rendered, StepTemplate, type TemplateData } from "../../exchange/texts/templates.ts";

/** A flow with different breaking single failures. */
export interface SurvivalChange {
  flow: string;
  /** Failures that break it now and did not, and those that broke it and do no more. */
  lost: string[];
  gained: string[];
}

/** Differences of the board between two revisions: the single failures that flows of both survive. */
export async function survival(
  p: Scenario,
  { down }: { down: string[] },
  approved: () => Promise<Scenario>,
): Promise<SurvivalChange[]> {
  const broken = (scenario: Scenario) => {
    const { engine, gateways } = scenario;
    const asked = scenario.flows();
    const found = breakersOf(
      engine,
      gateways,
      asked.map(({ question }) => question),
    );
    return new Map(found.map((one, n) => [asked[n].flow.id, one]));
  };
  const [before, now] = [(await approved()).under(down), p.under(down)].map(broken);
  return [...now].flatMap(([flow, { works, breakers }]) => {
    const old = before.get(flow);
    if (!works || !old?.works) return [];
    const lost = [...breakers].filter((ref) => !old.breakers.has(ref));
    const gained = [...old.breakers].filter((ref) => !breakers.has(ref));
    return lost.length + gained.length > 0 ? [{ flow, lost, gained }] : [];
  });
}

/** What a template writes for steps, tried without touching the plan. */
export function templateTry(
  _p: Scenario,
  { source, steps }: { source: string; steps: TemplateData[] },
): { error: string; line: number | null; texts: Rendered[] } {
  const read = StepTemplate.read(source);
  if (!read.ok) return { error: read.error, line: read.line, texts: [] };
  return { error: "", line: null, texts: steps.map((step) => read.template.render(step)) };
}

/** A possible rollout order of a draft, from the approved revision; null without one. */
export async function runbook(
  p: Scenario,
  { prefer }: { prefer?: Preference },
  approved: () => Promise<Scenario>,
) {
  return runbookOf(await approved(), p, prefer === "traffic" ? "traffic" : "visits")?.runbook ?? null;
}
