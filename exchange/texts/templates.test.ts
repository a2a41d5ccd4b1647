import { describe, expect, it } from "vitest";
import { NetworkModel } from "../../core/scenario/index.ts";
import { runbookOf } from "../../core/steps/index.ts";
import { demoChanged, demoPlan } from "../../tests/support/plans.ts";
import { StepTemplate, TEMPLATE_LIMITS, templateSteps, withTexts } from "./index.ts";

const [before, after] = [demoPlan("marrow-bay"), demoChanged()];
const outcome = runbookOf(NetworkModel.compile(before), NetworkModel.compile(after));
if (!outcome) throw new Error("no order");
const runbook = withTexts(before, after, outcome.runbook);
const steps = templateSteps(before, after, runbook);

function written(source: string, n = 0) {
  const read = StepTemplate.read(source);
  return read.ok ? read.template.render(steps[n]) : read;
}

describe("templates of steps", () => {
  it("have the step as data, the device with its profile, and what takes it back in reverse", () => {
    expect(steps).toHaveLength(15);
    expect(steps[0]).toMatchObject({ action: "add", kind: "route", visit: 1, step: 1, undo: false });
    expect(new Set(steps.map(({ device }) => device.profile)).size).toBeGreaterThan(1);
    const back = templateSteps(before, after, runbook, true);
    expect(back[0]).toMatchObject({ visit: steps.at(-1)?.visit, step: steps.at(-1)?.step, undo: true });
    expect(back.at(-1)).toMatchObject({ action: "remove", after: null, item: steps[0].item });
  });

  it("write what they say, whatever the step", () => {
    expect(written("{{ action }} {{ item.to }}{% if item.via %} by {{ item.via }}{% endif %}")).toEqual({
      ok: true,
      text: `add ${(steps[0].item as { to: string }).to} by ${(steps[0].item as { via: string }).via}`,
    });
    expect(written("\n\n\n a\n\n\n\nb \n")).toEqual({ ok: true, text: "a\n\nb" });
  });

  it("say in which line they fail", () => {
    expect(written("a\n{{ item.to | frobnicate }}")).toEqual({
      ok: false,
      error: "undefined filter: frobnicate",
      line: 2,
    });
    expect(written("a\nb\n{{ itme.to }}")).toEqual({ ok: false, error: "undefined variable: itme", line: 3 });
    expect(written("{% if action %}")).toMatchObject({ ok: false, line: 1 });
    expect(written("{{ item")).toMatchObject({ ok: false, line: 1 });
  });

  it("reach nothing but the step: no files, no other templates, nothing that values inherit", () => {
    for (const source of [
      `{% include "/etc/passwd" %}`,
      `{% render "../package.json" %}`,
      `{% layout "x" %}`,
      `{% include item.to %}`,
    ])
      expect(written(source)).toMatchObject({ ok: false });
    for (const source of [
      "{{ item.constructor }}",
      "{{ item.__proto__ }}",
      "{{ item.to.constructor.name }}",
      "{{ process.env }}",
    ])
      expect(written(source)).not.toMatchObject({ ok: true, text: /./ });
  });

  it.each([
    "{% for i in (1..100000000) %}x{% endfor %}",
    "{% for i in (1..30000) %}{% for j in (1..30000) %}{% assign x = j %}{% endfor %}{% endfor %}",
    `{% assign s = "xxxxxxxxxxxxxxxx" %}{% for i in (1..60) %}{% assign s = s | append: s %}{% endfor %}{{ s }}`,
    "{% for i in (1..5000) %}{{ sentence }}{{ sentence }}{{ sentence }}{% endfor %}",
    `{% assign a = "a,b" | split: "," %}{% for i in (1..40) %}{% assign a = a | concat: a %}{% endfor %}`,
  ])("are ended in time and space: %s", (source) => {
    const start = performance.now();
    expect(written(source)).toMatchObject({ ok: false });
    expect(performance.now() - start).toBeLessThan(TEMPLATE_LIMITS.renderMs * 8);
  });

  it("have a length", () => {
    expect(StepTemplate.read("x".repeat(TEMPLATE_LIMITS.text + 1))).toMatchObject({ ok: false });
  });
});
