import { Liquid, type Template } from "liquidjs";
import { profileOf } from "../../core/network/index.ts";
import type { Change, Plan } from "../../core/plan/index.ts";
import type { TextedRunbook, TextedStep } from "./texts.ts";

/** Limits of a template: characters of its text and of its output, milliseconds, and memory units. */
export const TEMPLATE_LIMITS = { text: 20_000, output: 100_000, renderMs: 250, memory: 2_000_000 } as const;

/** What a template is given of a step. */
export interface TemplateData {
  /** add, change or remove. */
  readonly action: "add" | "change" | "remove";
  /** route, interface, watch, translation, learned-route, policy-table, settings or device. */
  readonly kind: string;
  /** The item before and after; null if it does not exist. */
  readonly before: unknown;
  readonly after: unknown;
  /** The one that is there: `after`, else `before`. */
  readonly item: unknown;
  /** The policy table of its routes. */
  readonly table: string | null;
  readonly device: {
    readonly id: string;
    readonly label: string;
    readonly role: string;
    readonly profile: string;
    readonly site: string;
  };
  readonly sentence: string;
  /** Whether the step is taken back. */
  readonly undo: boolean;
  /** From 1. */
  readonly visit: number;
  readonly step: number;
}

export type Rendered = { ok: true; text: string } | { ok: false; error: string; line: number | null };

/**
 * A template of users' own, in Liquid: it has the step as data and nothing else, no files and no other templates, and is
 * bounded in time, memory and output.
 */
export class StepTemplate {
  private constructor(
    private readonly engine: Liquid,
    private readonly parsed: Template[],
  ) {}

  /** Reads a template; if it is malformed, returns the error and its line. */
  static read(
    source: string,
  ): { ok: true; template: StepTemplate } | { ok: false; error: string; line: number | null } {
    if (source.length > TEMPLATE_LIMITS.text)
      return { ok: false, error: `a template has at most ${TEMPLATE_LIMITS.text} characters`, line: null };
    const engine = new Liquid({
      // No other templates: what names one does not find it.
      templates: {},
      relativeReference: false,
      dynamicPartials: false,
      ownPropertyOnly: true,
      strictFilters: true,
      strictVariables: true,
      lenientIf: true,
      parseLimit: TEMPLATE_LIMITS.text,
      renderLimit: TEMPLATE_LIMITS.renderMs,
      memoryLimit: TEMPLATE_LIMITS.memory,
    });
    try {
      return { ok: true, template: new StepTemplate(engine, engine.parse(source)) };
    } catch (error) {
      return failure(error);
    }
  }

  render(data: TemplateData): Rendered {
    try {
      const text = String(this.engine.renderSync(this.parsed, { ...data }));
      if (text.length > TEMPLATE_LIMITS.output)
        return { ok: false, error: `the output exceeds ${TEMPLATE_LIMITS.output} characters`, line: null };
      return { ok: true, text: text.replace(/\n{3,}/g, "\n\n").trim() };
    } catch (error) {
      return failure(error);
    }
  }
}

/** Liquid's own error, as a sentence with its line. */
function failure(error: unknown): { ok: false; error: string; line: number | null } {
  const message = error instanceof Error ? error.message : String(error);
  const place = /,? line:(\d+)(?:, col:\d+)?$/.exec(message);
  const why = (place ? message.slice(0, place.index) : message).replace(
    /^ENOENT: .*$/s,
    "other templates cannot be included",
  );
  return { ok: false, error: why.slice(0, 300), line: place ? Number(place[1]) : null };
}

const kinds: Readonly<Record<string, string>> = {
  routes: "route",
  interfaces: "interface",
  watches: "watch",
  sourceNat: "translation",
  learned: "learned-route",
  policyTables: "policy-table",
  devices: "device",
};

/** A step as seen by templates; null for steps between devices. */
function templateData(
  plan: Plan,
  step: TextedStep,
  at: { device: string | null; visit: number; step: number; undo: boolean },
): TemplateData | null {
  const device = plan.devices.find(({ id }) => id === at.device);
  if (!device) return null;
  const change: Change = at.undo ? step.undo : step.do;
  const { before = null, after = null } = change as { before?: unknown; after?: unknown };
  return {
    action: before === null ? "add" : after === null ? "remove" : "change",
    kind:
      change.in === "policy-table"
        ? "route"
        : change.in === "device-settings"
          ? "settings"
          : "collection" in change
            ? (kinds[change.collection] ?? change.collection)
            : change.in,
    before,
    after,
    item: after ?? before,
    table: change.in === "policy-table" ? change.table : null,
    device: {
      id: device.id,
      label: device.label ?? device.id,
      role: device.role,
      profile: profileName(plan, device.id),
      site: device.site ?? "",
    },
    sentence: (at.undo ? step.undoTexts : step.texts).sentence,
    undo: at.undo,
    visit: at.visit,
    step: at.step,
  };
}

/** The name of the profile that a device has, by which its template is kept. */
function profileName(plan: Plan, id: string): string {
  const device = plan.devices.find((one) => one.id === id);
  return device ? profileOf(plan, device).id : "";
}

/** The steps of a runbook as templates see them, in order; of undo in the reverse order. */
export function templateSteps(
  before: Plan,
  after: Plan,
  { visits }: TextedRunbook,
  undo = false,
): TemplateData[] {
  const merged = { ...after, devices: [...after.devices, ...before.devices] };
  const all = visits.flatMap(({ device, steps }, v) =>
    steps.flatMap((step, n) => templateData(merged, step, { device, visit: v + 1, step: n + 1, undo }) ?? []),
  );
  return undo ? all.reverse() : all;
}
