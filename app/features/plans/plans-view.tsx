import { Form, useNavigation } from "react-router";
import { OWN_ENDS_LEFT_OUT } from "../../../core/expectations/index.ts";
import type { Lesson } from "../../engine/lessons.server.ts";
import { AccountLinks } from "../../ui/account-links.tsx";
import { Button } from "../../ui/button.tsx";
import { Coded } from "../../ui/coded.tsx";
import { FileButton } from "../../ui/file-button.tsx";
import { Mark } from "../../ui/mark.tsx";
import { PopoverBox } from "../../ui/popover.tsx";
import { Lessons } from "./lessons.tsx";
import { PlanCard, type PlanOnCard } from "./plan-card.tsx";

interface PlansViewProps {
  plans: PlanOnCard[];
  /** The signed-in account; null if sign-in is off. */
  who: string | null;
  administers: boolean;
  /** Whether the user may add plans. */
  adds: boolean;
  lessons: readonly Lesson[];
  errors: string[];
}

/** Which plans are there, and are they sound; how to bring in another. */
export function PlansView({ plans, who, administers, adds, lessons, errors }: PlansViewProps) {
  const busy = useNavigation().state !== "idle";
  return (
    <main className="mx-auto max-w-6xl p-6">
      <header className="flex flex-wrap items-center gap-3">
        <Mark size={28} />
        <h1 className="font-semibold font-sign text-[28px]">Iron Fork</h1>
        <p className="text-ink-2">Plan routes and predict which gateway carries traffic in a failure.</p>
        <Form method="get" action="/search" className="ml-auto flex gap-2" role="search">
          <input
            name="q"
            aria-label="Search all plans by address"
            placeholder="Search all plans: address or prefix"
            className="field w-64"
          />
          <button type="submit" className="button">
            Search
          </button>
        </Form>
        <AccountLinks who={who} administers={administers} />
      </header>
      {adds && (
        <section aria-label="Add plan" className="mt-4 border-rule border-y py-3">
          {errors.length > 0 && (
            <div role="alert" className="mt-2 border-2 border-stop bg-panel p-3">
              <p className="font-semibold text-stop">
                Import failed. {errors.length === 1 ? "1 error:" : `${errors.length} errors:`}
              </p>
              <ul className="mt-1 max-h-60 list-disc overflow-auto pl-5">
                {errors.map((error) => (
                  <li key={error} className="break-words">
                    <Coded text={error} />
                  </li>
                ))}
              </ul>
            </div>
          )}
          <div className="flex flex-wrap items-center gap-x-8 gap-y-2">
            <Form method="post" encType="multipart/form-data" className="flex items-center gap-2">
              <input type="hidden" name="do" value="new" />
              <label htmlFor="plan-name" className="font-medium">
                New plan
              </label>
              <input
                id="plan-name"
                name="name"
                required
                maxLength={200}
                placeholder="name of the network"
                className="field w-56"
              />
              <Button type="submit" look="strong" disabled={busy}>
                Create plan
              </Button>
            </Form>
            <div className="flex items-center gap-2">
              <span className="font-medium">Import plan</span>
              <Form method="post" encType="multipart/form-data">
                <input type="hidden" name="do" value="read" />
                <FileButton
                  name="file"
                  accept=".json,.yaml,.yml,application/json,text/yaml"
                  disabled={busy}
                  onChange={(event) => event.target.form?.requestSubmit()}
                >
                  Choose file
                </FileButton>
              </Form>
              <PopoverBox
                label="Paste plan"
                trigger={
                  <button type="button" className="button">
                    Paste text
                  </button>
                }
              >
                <PasteForm busy={busy} />
              </PopoverBox>
              <span className="text-[13px] text-ink-2">YAML or JSON</span>
            </div>
          </div>
        </section>
      )}
      <ul className="mt-6 grid gap-4 md:grid-cols-2">
        {plans.map((plan) => (
          <PlanCard key={plan.id} plan={plan} />
        ))}
      </ul>
      {plans.length > 0 && (
        <p className="mt-2 text-[13px] text-ink-2">
          Single failures: links, devices, interfaces and watches, {OWN_ENDS_LEFT_OUT}.
        </p>
      )}
      {plans.length === 0 && (
        <p className="mt-8 text-ink-2">
          {adds
            ? "No plans yet. Create or import a plan above, or open an example below."
            : "No plan has been shared with you yet."}
        </p>
      )}
      {adds && <Lessons lessons={lessons} />}
    </main>
  );
}

/** Imports a plan document that is pasted as text. */
function PasteForm({ busy }: { busy: boolean }) {
  return (
    <Form method="post" encType="multipart/form-data" className="flex w-[420px] max-w-full flex-col gap-2">
      <input type="hidden" name="do" value="read" />
      <label htmlFor="plan-text" className="text-ink-2">
        Plan document, YAML or JSON
      </label>
      <textarea
        id="plan-text"
        name="text"
        rows={10}
        className="field addr h-auto"
        placeholder={"ironFork: 1\nname: …"}
        spellCheck={false}
      />
      <div>
        <Button type="submit" look="strong" disabled={busy}>
          Import
        </Button>
      </div>
    </Form>
  );
}
