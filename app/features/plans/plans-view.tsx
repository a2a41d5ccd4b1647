import { Form, useNavigation } from "react-router";
import { OWN_ENDS_LEFT_OUT } from "../../../core/expectations/index.ts";
import type { Lesson } from "../../engine/lessons.server.ts";
import { AccountLinks } from "../../ui/account-links.tsx";
import { Mark } from "../../ui/mark.tsx";
import { Lessons } from "./lessons.tsx";
import { PlanCard, type PlanOnCard } from "./plan-card.tsx";

interface PlansViewProps {
  plans: PlanOnCard[];
  /** The account that is signed in; null where nobody has to. */
  who: string | null;
  administers: boolean;
  lessons: readonly Lesson[];
  errors: string[];
}

/** Which plans are there, and are they sound; how to bring in another. */
export function PlansView({ plans, who, administers, lessons, errors }: PlansViewProps) {
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
      <section aria-label="Add plan" className="mt-5 border-rule border-y py-4">
        <h2 className="font-semibold font-sign text-[20px]">Import plan</h2>
        {errors.length > 0 && (
          <div role="alert" className="mt-2 border-2 border-stop bg-panel p-3">
            <p className="font-semibold text-stop">
              Import failed. {errors.length === 1 ? "1 error:" : `${errors.length} errors:`}
            </p>
            <ul className="mt-1 max-h-60 list-disc overflow-auto pl-5">
              {errors.map((error) => (
                <li key={error} className="break-words">
                  {error}
                </li>
              ))}
            </ul>
          </div>
        )}
        <div className="mt-3 grid gap-6 md:grid-cols-2">
          <Form method="post" encType="multipart/form-data" className="flex flex-col gap-2">
            <input type="hidden" name="do" value="read" />
            <label htmlFor="plan-file" className="text-ink-2">
              From a document, JSON or YAML
            </label>
            <input
              id="plan-file"
              type="file"
              name="file"
              accept=".json,.yaml,.yml,application/json,text/yaml"
              className="text-ink-2 file:mr-3 file:rounded-[3px] file:border file:border-rule file:border-solid file:bg-panel file:px-3 file:py-1 file:text-ink"
            />
            <label htmlFor="plan-text" className="text-ink-2">
              or pasted here
            </label>
            <textarea
              id="plan-text"
              name="text"
              rows={2}
              className="field addr"
              placeholder={"ironFork: 1\nname: …"}
              spellCheck={false}
            />
            <div>
              <button type="submit" className="button button-strong" disabled={busy}>
                Import
              </button>
            </div>
          </Form>
          <Form method="post" encType="multipart/form-data" className="flex flex-col gap-2">
            <input type="hidden" name="do" value="new" />
            <label htmlFor="plan-name" className="text-ink-2">
              New plan
            </label>
            <input
              id="plan-name"
              name="name"
              required
              maxLength={200}
              placeholder="name of the network"
              className="field w-72"
            />
            <div>
              <button type="submit" className="button" disabled={busy}>
                Create plan
              </button>
            </div>
          </Form>
        </div>
      </section>
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
          No plans yet. Create or import a plan above, or open an example below.
        </p>
      )}
      <Lessons lessons={lessons} />
    </main>
  );
}
