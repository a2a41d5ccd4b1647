import { useEffect } from "react";
import { Form, useRevalidator } from "react-router";
import type { FormNotice } from "../../../engine/live-forms.server.ts";
import { usePlan } from "../../../plan/open-plan.tsx";
import { Button } from "../../../ui/button.tsx";
import { TabSet } from "../../../ui/tabs.tsx";
import { CredentialForm, Credentials, type CredentialView } from "./credentials.tsx";
import { LatestReadings, type ReadingList } from "./latest-readings.tsx";
import { TargetForm, TargetListForm } from "./target-form.tsx";
import { isUnderWay, TargetList, type TargetView } from "./target-list.tsx";
import { Trials } from "./trials.tsx";

interface PollingProps {
  allowed: { prefixes: string[]; problem: string };
  administers: boolean;
  targets: TargetView[];
  /** Devices that are tested before they are saved. */
  trials: TargetView[];
  credentials: CredentialView[];
  kept: ReadingList;
  told: FormNotice | null;
}

const LOOK_EVERY_MS = 1000;

/** The polled devices with their last results, forms to add devices and credentials, and the latest readings. */
export function PollingView({
  allowed,
  administers,
  targets,
  trials,
  credentials,
  kept,
  told,
}: PollingProps) {
  const { page } = usePlan();
  const edits = page.role !== "reads";
  useLookingAgain([...targets, ...trials].some(isUnderWay));
  const problem = told?.errors.do ?? told?.errors.key;
  const of = (...forms: string[]) => (told && forms.includes(told.form) ? told : null);
  return (
    <div className="mt-3 flex flex-col gap-5">
      <section aria-label="Polled devices">
        <div className="flex flex-wrap items-center gap-3">
          <h2 className="font-semibold font-sign text-[20px]">Polled devices</h2>
          {edits && targets.length > 0 && (
            <Form method="post">
              <input type="hidden" name="do" value="read" />
              <Button type="submit" look="strong">
                Poll all {targets.length}
              </Button>
            </Form>
          )}
          <Allowed {...allowed} />
        </div>
        {told && told.said !== "" && (
          <p role="status" className="mt-1 font-medium">
            {told.said}
          </p>
        )}
        {problem && (
          <p role="alert" className="mt-1 text-stop">
            {problem}
          </p>
        )}
        {targets.length === 0 && (
          <p className="mt-1 text-ink-2">
            No polled devices yet. Add credentials, then add a device or paste a list of addresses.
          </p>
        )}
        <TargetList targets={targets} credentials={credentials} administers={administers} edits={edits} />
        <Trials trials={trials} credentials={credentials} administers={administers} />
      </section>
      {edits && (
        <TabSet
          label="Add"
          initial={credentials.length === 0 ? "credentials" : "device"}
          tabs={[
            {
              value: "device",
              text: "Add device",
              body: (
                <TargetForm credentials={credentials} administers={administers} told={of("target", "test")} />
              ),
            },
            {
              value: "list",
              text: "Add list",
              body: (
                <TargetListForm credentials={credentials} administers={administers} told={of("targets")} />
              ),
            },
            {
              value: "credentials",
              text: `Credentials ${credentials.length}`,
              body: (
                <div className="grid gap-6 lg:grid-cols-2">
                  {administers ? (
                    <CredentialForm allowed={allowed.prefixes} told={of("credential")} />
                  ) : (
                    <p className="text-ink-2">Credentials are added by an administrator of the plan.</p>
                  )}
                  <Credentials
                    credentials={credentials}
                    administers={administers}
                    error={of("forget-credential")?.errors.credential}
                  />
                </div>
              ),
            },
          ]}
        />
      )}
      <LatestReadings kept={kept} />
    </div>
  );
}

/** While a poll is running, the page reloads its data. */
function useLookingAgain(underWay: boolean) {
  const { revalidate, state } = useRevalidator();
  useEffect(() => {
    if (!underWay || state !== "idle") return;
    const timer = setTimeout(() => void revalidate(), LOOK_EVERY_MS);
    return () => clearTimeout(timer);
  }, [underWay, state, revalidate]);
}

function Allowed({ prefixes, problem }: PollingProps["allowed"]) {
  if (problem !== "") return <p className="text-stop">{problem}. Polling is off.</p>;
  if (prefixes.length === 0) {
    return (
      <p className="text-ink-2">
        Polling is off. Start the server with <code className="addr">bin/start --read 10.0.0.0/8</code> to
        allow devices in a prefix. Polling only reads; it never changes a device.
      </p>
    );
  }
  return (
    <p className="text-ink-2">
      Allowed: <span className="addr">{prefixes.join(", ")}</span>. Polling only reads; it never changes a
      device.
    </p>
  );
}
