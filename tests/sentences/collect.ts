import { readdirSync } from "node:fs";
import { checks, findAll } from "../../core/findings/index.ts";
import type { Plan } from "../../core/plan/index.ts";
import { tableReport, timelineReport } from "../../core/reports/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { dropCodes } from "../../core/walk/index.ts";
import { adviceFor, downText, dropText, explainTrip } from "../../core/words/index.ts";
import { guests } from "../support/denied-plan.ts";
import { fullPlan } from "../support/full-plan.ts";
import { linkLocalPlan } from "../support/link-local-plan.ts";
import { mistakes } from "../support/mistakes.ts";
import { demoPlan } from "../support/plans.ts";
import { Random } from "../support/random.ts";
import { withOddities, withWatches, withWayIn } from "../support/random-extras.ts";
import { randomPlan } from "../support/random-plan.ts";
import { withShared } from "../support/random-shared.ts";
import { sharedTwins } from "../support/shared-mistakes.ts";

/** Plans that between them show almost every sentence. */
function samplePlans(): Plan[] {
  const cases = readdirSync(new URL("../../demo/cases", import.meta.url))
    .filter((name) => name.endsWith(".yaml"))
    .sort()
    .map((name) => demoPlan(`cases/${name.replace(".yaml", "")}`));
  const random = Array.from({ length: 24 }, (_, n) => {
    const seed = 7000 + n;
    const draw = new Random(seed);
    const plan = randomPlan(seed, { mistakes: true, family: n % 5 === 0 ? 6 : 4 });
    const more = n % 2 === 0 ? withWatches(plan, draw) : withOddities(plan, draw);
    return n % 3 === 0 ? withShared(more, draw) : n % 3 === 1 ? withWayIn(more, draw) : more;
  });
  return [
    demoPlan("marrow-bay"),
    demoPlan("three-routers"),
    ...cases,
    ...sharedTwins.flatMap(([, wrong, right]) => [wrong, right]),
    ...mistakes.map(([, wrong]) => wrong),
    guests(),
    fullPlan(),
    linkLocalPlan(),
    ...random,
  ];
}

export interface Sentences {
  /** By the code of the check: its title, a text, the labels of its fixes. */
  readonly findings: Map<string, { title: string; text: string; fixes: string[] }>;
  /** By code. */
  readonly reasons: Map<string, string>;
  readonly drops: Map<string, string>;
  /** By their wording without names and numbers. */
  readonly headlines: Map<string, string>;
  readonly explanations: Map<string, string>;
  readonly interfaces: Map<string, string>;
  readonly events: Map<string, string>;
  readonly sessions: Map<string, string>;
}

/** Names that are words of sentences too. */
const ordinary = new Set(["a", "e", "in", "out", "up", "on", "way", "wall", "core", "it"]);

const escapedName = (name: string) => name.replaceAll(/[.*+?^${}()|[\]\\]/g, "\\$&");

/** A sentence without names, numbers and addresses, to tell sentences of one kind. */
function kindOf(text: string, plan: Plan): string {
  const names = plan.devices
    .flatMap(({ id, label, interfaces, watches }) => [
      id,
      label ?? id,
      ...interfaces.map(({ name }) => name),
      ...watches.map((watch) => watch.id),
    ])
    .concat(plan.links.flatMap(({ id, label }) => [id, label ?? id]))
    .concat(plan.gateways.flatMap(({ id, label }) => [id, label ?? id]))
    .concat(plan.flows.map(({ id }) => id))
    .filter((name) => !ordinary.has(name))
    .sort((a, b) => b.length - a.length);
  let plain = text.replace(/(?:\d{1,3}\.){3}\d{1,3}(?:\/\d+)?|[0-9a-f]*::?[0-9a-f:]*(?:\/\d+)?/g, "A");
  for (const name of names)
    plain = plain.replaceAll(new RegExp(`(?<![\\w-])${escapedName(name)}(?![\\w-])`, "g"), "N");
  return (
    plain
      .replaceAll(/\d+(?:\.\d+)?/g, "1")
      .replaceAll(/A(?:%N)?(?:, (?:then )?A)*/g, "A")
      .replaceAll(/[NA](?:[ /,–-]+(?:and |then |or )?[NA])*/g, "N")
      // The ways to name a route, and of a list one item.
      .replaceAll(/N(?: via (?:the gateway of )?N)?(?: out N| discarded| rejected)?/g, "N")
      .replaceAll(/N(?:,? (?:and |then )?N)*/g, "N")
      .replaceAll(/^.* rides on N/g, "N rides on N")
  );
}

/** One sentence of each kind that the engine makes, from the sample plans. */
export function collectSentences(): Sentences {
  const found: Sentences = {
    findings: new Map(),
    reasons: new Map(),
    drops: new Map(),
    headlines: new Map(),
    explanations: new Map(),
    interfaces: new Map(),
    events: new Map(),
    sessions: new Map(),
  };
  const add = (into: Map<string, string>, key: string, text: string) => {
    if (!into.has(key)) into.set(key, text);
  };
  for (const plan of samplePlans()) {
    const model = NetworkModel.compile(plan);
    for (const finding of findAll(model)) {
      const known = found.findings.get(finding.code);
      const title = checks.find(({ code }) => code === finding.code)?.title ?? finding.code;
      if (!known) found.findings.set(finding.code, { title, text: finding.text, fixes: [] });
      const fixes = found.findings.get(finding.code)?.fixes ?? [];
      for (const { label } of finding.fixes)
        if (!fixes.some((one) => kindOf(one, plan) === kindOf(label, plan)) && fixes.length < 4)
          fixes.push(label);
    }
    const elements = [
      ...plan.devices.map(({ id }) => `device:${id}`),
      ...plan.links.map(({ id }) => `link:${id}`),
      ...plan.devices.flatMap(({ id, watches }) => watches.map((watch) => `watch:${id}/${watch.id}`)),
    ];
    for (const down of [[], ...elements.slice(0, 14).map((ref) => [ref])]) {
      const scenario = model.under(down);
      const { state } = scenario.world;
      for (const device of model.network.devices)
        for (const vrf of device.vrfs)
          for (const { reason } of tableReport(scenario.world, device.index, vrf).routes)
            if (reason) add(found.reasons, reason.code, reason.text);
      for (let i = 0; i < model.network.interfaces.names.length; i++)
        if (!state.interfaceUp[i]) {
          const text = downText(state, i);
          add(found.interfaces, kindOf(text, plan), text);
        }
      const healthy = model.trips();
      for (const [flow, trip] of scenario.trips()) {
        const before = healthy.get(flow);
        if (!trip || !before) continue;
        for (const walk of [trip.worst.outbound, trip.worst.reply])
          if (walk?.drop) add(found.drops, walk.drop.code, dropText(state, walk, walk.drop));
        const explained = explainTrip(
          model.gateways,
          { world: model.world, trip: before },
          { world: scenario.world, trip },
        );
        add(found.headlines, kindOf(explained.headline, plan), explained.headline);
        for (const text of explained.sentences) add(found.explanations, kindOf(text, plan), text);
      }
    }
    for (const { steps } of plan.outages.slice(0, 4)) {
      const report = timelineReport(model.engine, model.gateways, model.stepsOf(steps));
      for (const { what } of report.events) add(found.events, kindOf(what, plan), what);
      for (const { sessions } of report.flows)
        if (sessions?.reason) add(found.sessions, kindOf(sessions.reason, plan), sessions.reason);
    }
  }
  return found;
}

/** The page of all sentences, in Markdown. */
export function sentencesPage(found: Sentences): string {
  const lines = [
    "# Sentences",
    "",
    "Every kind of sentence that the engine and the findings make, once, from sample plans. Sentences name items by their ids;",
    "screens show labels. Generated by `npm run sentences`; a test checks that the page is current.",
    "",
    "## Findings",
    "",
  ];
  for (const { code } of checks) {
    const one = found.findings.get(code);
    if (!one) continue;
    lines.push(`**${one.title}** (\`${code}\`)  `, escaped(one.text));
    if (one.fixes.length > 0) lines.push("", ...one.fixes.map((label) => `- Fix: ${escaped(label)}`));
    lines.push("");
  }
  const list = (title: string, items: Iterable<string>) => {
    lines.push(`## ${title}`, "", ...[...items].map((text) => `- ${escaped(text)}`), "");
  };
  const byCode = (map: Map<string, string>) =>
    [...map].sort(([a], [b]) => (a < b ? -1 : 1)).map(([code, text]) => `\`${code}\`: ${text}`);
  list("Reasons of routes", byCode(found.reasons));
  list(
    "Lost packets, with advice",
    byCode(found.drops).map((text) => {
      const [, code] = /^`([^`]+)`/.exec(text) ?? [];
      const known = dropCodes.find((one) => one === code);
      return known ? `${text} – ${adviceFor(known)}` : text;
    }),
  );
  list("Results of flows", [...found.headlines.values()].sort());
  list("Explanations of flows", [...found.explanations.values()].sort());
  list("Interfaces", [...found.interfaces.values()].sort());
  list("Events of an outage", [...found.events.values()].sort());
  list("Established sessions", [...found.sessions.values()].sort());
  return `${lines.join("\n").trimEnd()}\n`;
}

const escaped = (text: string) => text.replaceAll("*", "\\*").replaceAll("_", "\\_");
