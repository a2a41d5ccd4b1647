import { useState } from "react";
import { Form, Link, useNavigation } from "react-router";
import type { TemplateData } from "../../../exchange/texts/index.ts";
import type { TemplateRow } from "../../../server/changes/templates.ts";
import { useAsking } from "../../engine/asking.ts";
import type { SampleSteps } from "../../engine/sample-steps.server.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { pageHref } from "../../search/links.ts";
import { Button } from "../../ui/button.tsx";
import { Pick } from "../../ui/select.tsx";

interface WordsViewProps {
  templates: TemplateRow[];
  samples: SampleSteps;
  told: { error: string; kept: boolean } | null;
}

/** Custom templates for devices of a profile, tried on real steps while they are edited. */
export function WordsView({ templates, samples, told }: WordsViewProps) {
  const { planId, params } = usePlan();
  const profiles = [...new Set([...samples.profiles, ...templates.map(({ profile }) => profile)])].sort();
  const [profile, setProfile] = useState(templates[0]?.profile ?? profiles[0] ?? "");
  const kept = templates.find((one) => one.profile === profile);
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <p className="text-[13px] text-ink-2">
        <Link className="name-link" to={pageHref(planId, "changes", params)}>
          Changes
        </Link>
      </p>
      <h1 className="font-semibold font-sign text-[26px]">Device templates</h1>
      <p className="max-w-4xl text-ink-2">
        Runbooks show each step as plain text and in the formats of open standards. To add the syntax of your
        own devices, write a Liquid template for each profile. Runbooks show the result under “Templates”.
      </p>
      {profiles.length === 0 ? (
        <p className="mt-3">No devices yet. Add devices on Network.</p>
      ) : (
        <>
          <div className="mt-3 flex items-center gap-2">
            <span id="words-profile" className="text-[13px] text-ink-2">
              Profile
            </span>
            <Pick
              aria-label="Profile"
              value={profile}
              onChange={setProfile}
              choices={profiles.map((name) => ({
                value: name,
                label: templates.some((one) => one.profile === name) ? `${name} (saved)` : name,
              }))}
            />
          </div>
          <Editor key={profile} profile={profile} source={kept?.source ?? ""} samples={samples} told={told} />
        </>
      )}
    </div>
  );
}

const EXAMPLE = `{% if kind == "route" %}{% if action == "remove" %}remove{% else %}add{% endif %} route to {{ item.to }}
{%- if item.via %} by {{ item.via }}{% endif %}
{%- else %}{{ sentence }}{% endif %}`;

function Editor({
  profile,
  source,
  samples,
  told,
}: Omit<WordsViewProps, "templates"> & { profile: string; source: string }) {
  const { page } = usePlan();
  const [text, setText] = useState(source);
  const busy = useNavigation().state === "submitting";
  const own = samples.steps.filter(({ device }) => device.profile === profile);
  const steps = own.length > 0 ? own : samples.steps;
  const { answer } = useAsking(
    page,
    "templateTry",
    text.trim() === "" ? null : { source: text, steps: [...steps] },
    { afterMs: 200 },
  );
  return (
    <div className="mt-2 grid gap-4 xl:grid-cols-2">
      <Form method="post" className="flex flex-col gap-2">
        <input type="hidden" name="profile" value={profile} />
        <label htmlFor="words-source" className="text-[13px] text-ink-2">
          Template for {profile}
        </label>
        <textarea
          id="words-source"
          name="source"
          rows={16}
          spellCheck={false}
          value={text}
          onChange={(event) => setText(event.target.value)}
          aria-invalid={answer?.error ? true : undefined}
          aria-describedby="words-error"
          className="field w-full font-addr text-[13px] leading-[18px]"
        />
        <p id="words-error" role="status" className="min-h-5 text-[13px]">
          {answer?.error ? (
            <span className="text-stop">
              {answer.line ? `Line ${answer.line}: ` : ""}
              {answer.error}.
            </span>
          ) : told?.error ? (
            <span className="text-stop">Not saved: {told.error}.</span>
          ) : (
            told?.kept && "Saved."
          )}
        </p>
        <span className="flex gap-2">
          <Button type="submit" look="strong" disabled={busy || Boolean(answer?.error)}>
            Save
          </Button>
          {text.trim() === "" && <Button onClick={() => setText(EXAMPLE)}>Insert example</Button>}
        </span>
        <Fields />
      </Form>
      <section aria-label="Preview">
        <h2 className="font-semibold">
          Preview <span className="font-normal text-[13px] text-ink-2">on {samples.of}</span>
        </h2>
        {own.length === 0 && samples.steps.length > 0 && (
          <p className="text-[13px] text-ink-2">
            No device of {profile} has steps. Steps of other devices are shown.
          </p>
        )}
        <ol>
          {steps.map((step, n) => (
            <Previewed
              key={`${step.undo} ${step.visit} ${step.step}`}
              step={step}
              rendered={answer?.texts[n]}
            />
          ))}
        </ol>
      </section>
    </div>
  );
}

function Previewed({
  step,
  rendered,
}: {
  step: TemplateData;
  rendered: { ok: true; text: string } | { ok: false; error: string; line: number | null } | undefined;
}) {
  return (
    <li className="border-rule border-t py-1">
      <p className="text-[13px] text-ink-2">
        {step.undo ? "Rollback: " : ""}
        {step.sentence}
      </p>
      {rendered?.ok && rendered.text !== "" && (
        <pre className="overflow-x-auto bg-sunk p-2 font-addr text-[12px] leading-[17px]">
          {rendered.text}
        </pre>
      )}
      {rendered?.ok && rendered.text === "" && <p className="text-[13px] text-ink-2">No output.</p>}
      {rendered && !rendered.ok && (
        <p className="text-[13px] text-stop">
          The template fails here{rendered.line ? `, in line ${rendered.line}` : ""}: {rendered.error}.
        </p>
      )}
    </li>
  );
}

const fields = [
  ["action", "add, change or remove"],
  ["kind", "route, interface, watch, translation, policy-table, settings, device, links"],
  ["item", "the item as in the plan document: item.to, item.via, item.distance, …"],
  ["before, after", "the item before and after the change"],
  ["device", "device.id, .label, .role, .profile, .site"],
  ["sentence", "the step as plain text"],
  ["undo", "true for the rollback of a step"],
  ["visit, step", "their numbers"],
] as const;

function Fields() {
  return (
    <details className="text-[13px]">
      <summary className="text-ink-2">Template variables</summary>
      <dl className="grid grid-cols-[110px_1fr] gap-x-3">
        {fields.map(([name, what]) => (
          <div key={name} className="contents">
            <dt className="font-addr text-[12px]">{name}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </details>
  );
}
