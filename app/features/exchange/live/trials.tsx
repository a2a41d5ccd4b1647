import { Form } from "react-router";
import { durationText } from "../../../../core/plan/index.ts";

import { Button } from "../../../ui/button.tsx";
import type { CredentialView } from "./credentials.tsx";
import { isUnderWay, LastReading, OfferedKey, type TargetView } from "./target-list.tsx";

interface TrialsProps {
  trials: readonly TargetView[];
  credentials: readonly CredentialView[];
  administers: boolean;
}

/** Devices that are tested before they are saved: the result, and what to do with it. */
export function Trials({ trials, credentials, administers }: TrialsProps) {
  if (trials.length === 0) return null;
  const names = new Map(credentials.map(({ id, name }) => [id, name]));
  return (
    <ul aria-label="Tests" className="mt-3 flex flex-col gap-2">
      {trials.map((trial) => (
        <li key={trial.id} className="border border-rule bg-panel p-3">
          <p>
            Test of <strong className="font-medium">{trial.device}</strong> at{" "}
            <span className="addr">{trial.address}</span> with {names.get(trial.credential)}
          </p>
          <LastReading target={trial} />
          {trial.offered !== null && <OfferedKey target={trial} administers={administers} />}
          <div className="mt-2 flex gap-2">
            <Form method="post">
              {[
                ["device", trial.device],
                ["address", trial.address],
                ["port", String(trial.port)],
                ["way", trial.way],
                ["credential", trial.credential],
                [
                  "everyMinutes",
                  trial.everyMinutes === null ? "" : durationText(trial.everyMinutes * 60_000),
                ],
              ].map(([name, value]) => (
                <input key={name} type="hidden" name={name} value={value} />
              ))}
              <Button type="submit" look="strong" name="do" value="target" disabled={isUnderWay(trial)}>
                Save device
              </Button>
            </Form>
            <Form method="post">
              <input type="hidden" name="target" value={trial.id} />
              <Button type="submit" name="do" value="drop-target">
                Discard
              </Button>
            </Form>
          </div>
        </li>
      ))}
    </ul>
  );
}
