import type { Finding, Severity } from "../../core/findings/index.ts";
import type { Plan, PlanError } from "../../core/plan/index.ts";
import { BETWEEN_DEVICES, type Runbook, type Visit } from "../../core/steps/index.ts";

/** The report on one file for pipelines, independent of the format. */
export interface Report {
  /** The command that was run. */
  readonly command: "check" | "findings" | "steps";
  /** The plan's file, as it was named. */
  readonly file: string;
  /** All rules that were checked, with or without results. */
  readonly rules: readonly Rule[];
  readonly results: readonly Result[];
}

export interface Rule {
  readonly id: string;
  readonly title: string;
}

export interface Result {
  readonly rule: string;
  readonly level: Severity;
  readonly text: string;
  /** Where in the document it is, as in errors of plans: "devices[2].routes[0].to"; "" for no place in particular. */
  readonly path: string;
  /** With the rule and the path, what tells it apart from others. */
  readonly subject: string;
  /** Whether the command fails by it. */
  readonly fails: boolean;
  /** Why it was set aside, where it was. */
  readonly dismissed?: string;
}

/** The errors of a document. */
export function checkReport(file: string, errors: readonly PlanError[]): Report {
  return {
    command: "check",
    file,
    rules: [{ id: "plan-document", title: "The document is a valid plan" }],
    results: errors.map(({ path, message }) => ({
      rule: "plan-document",
      level: "error",
      text: path ? `${path}: ${message}` : message,
      path,
      subject: message,
      fails: true,
    })),
  };
}

/** Findings, each at the route, interface or device that it is about. */
export function findingsReport(
  file: string,
  plan: Plan,
  findings: readonly Finding[],
  rules: readonly Rule[],
  grave: readonly Severity[],
): Report {
  const places = new Places(plan);
  return {
    command: "findings",
    file,
    rules,
    results: findings.map((finding) => ({
      rule: finding.code,
      level: finding.severity,
      text: finding.text,
      path: places.of(finding),
      subject: `${finding.device ?? ""} ${finding.subject}`.trim(),
      fails: !finding.dismissed && grave.includes(finding.severity),
      dismissed: finding.dismissed,
    })),
  };
}

const stepRules: readonly Rule[] = [
  { id: "flow-breaks", title: "Flows that work before and after the change are not interrupted" },
  { id: "subnet-unreached", title: "Subnets reachable before and after the change stay reachable" },
  {
    id: "risk-in-between",
    title: "Flows that survive a single failure before and after survive it during the change",
  },
  { id: "not-proven", title: "Every order was tried" },
];

/** A runbook: disruptions, disruptions under a further failure, and unproven properties. */
export function stepsReport(file: string, plan: Plan, { visits, unproven }: Runbook): Report {
  const places = new Places(plan);
  const at = (
    visit: Visit,
    n: number,
    rule: string,
    level: Severity,
    subject: string,
    text: string,
  ): Result => ({
    rule,
    level,
    text: `Visit ${n + 1} (${visit.device ?? BETWEEN_DEVICES}): ${text}`,
    path: visit.device === null ? "" : places.device(visit.device),
    subject: `${n + 1} ${subject}`,
    fails: level === "error",
  });
  const results = visits.flatMap((visit, n) => [
    ...visit.breaks.map(({ flow, until }) =>
      at(visit, n, "flow-breaks", "error", flow, `flow ${flow} is interrupted until visit ${until}`),
    ),
    ...visit.unreached.map(({ subnet, from, until }) =>
      at(
        visit,
        n,
        "subnet-unreached",
        "error",
        `${subnet} ${from}`,
        `${from} cannot reach ${subnet} until visit ${until}`,
      ),
    ),
    ...visit.risks.map(({ failed, flow }) =>
      at(
        visit,
        n,
        "risk-in-between",
        "warning",
        `${failed} ${flow}`,
        `at this point, a failure of ${failed} would break flow ${flow}`,
      ),
    ),
  ]);
  const open = unproven.map((text): Result => {
    return { rule: "not-proven", level: "advice", text, path: "", subject: text, fails: false };
  });
  return { command: "steps", file, rules: stepRules, results: [...results, ...open] };
}

/** Where things stand in a plan's document. */
class Places {
  private readonly devices: ReadonlyMap<string, number>;

  constructor(private readonly plan: Plan) {
    this.devices = new Map(plan.devices.map(({ id }, n) => [id, n]));
  }

  device(id: string): string {
    const n = this.devices.get(id);
    return n === undefined ? "" : `devices[${n}]`;
  }

  /** The first piece of evidence on the finding's own device, else the device, else the flow that it is about. */
  of({ device, evidence }: Finding): string {
    for (const piece of evidence) {
      if (piece.kind === "route" && (device === null || piece.device === device)) {
        const routes = this.plan.devices[this.devices.get(piece.device) ?? -1]?.routes ?? [];
        const n = routes.findIndex(
          ({ to, via, out }) =>
            to === piece.to && (via ?? null) === piece.via && (!out || !piece.out || out === piece.out),
        );
        if (n >= 0) return `${this.device(piece.device)}.routes[${n}]`;
      }
      if (piece.kind === "interface") {
        const slash = piece.interface.indexOf("/");
        const [id, name] = [piece.interface.slice(0, slash), piece.interface.slice(slash + 1)];
        const ports = this.plan.devices[this.devices.get(id) ?? -1]?.interfaces ?? [];
        const n = ports.findIndex((port) => port.name === name);
        if (n >= 0 && (device === null || id === device)) return `${this.device(id)}.interfaces[${n}]`;
      }
    }
    if (device !== null) return this.device(device);
    const walk = evidence.find((piece) => piece.kind === "path");
    const n = walk ? this.plan.flows.findIndex(({ id }) => id === walk.flow) : -1;
    return n >= 0 ? `flows[${n}]` : "";
  }
}
