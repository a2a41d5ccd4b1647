import { Form, Link, useLocation } from "react-router";
import { HiddenParams } from "../../plan/hidden-params.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { EditLink } from "../../plan/rights.tsx";
import type { DeviceAnswer } from "../../queries/device.ts";
import { deviceHref, toggleHref } from "../../search/links.ts";
import { RoleSign } from "../../ui/plate.tsx";
import { PairLine } from "./shared-parts.tsx";

/** What the device is, whether it is up, and how many of its routes are active. */
export function DeviceHead({ answer }: { answer: DeviceAnswer }) {
  const { params } = usePlan();
  const { pathname } = useLocation();
  const { device } = answer;
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-rule border-b px-4 py-3">
      <RoleSign role={device.role} size={20} />
      <h1 className="font-semibold font-sign text-[26px] leading-8">{device.label}</h1>
      <p className="text-ink-2">
        {device.role} · {device.profile} · VRF {answer.vrf}
        {device.staticDistance === null
          ? " · no administrative distances"
          : ` · static distance ${device.staticDistance}`}
      </p>
      {answer.pair && <PairLine pair={answer.pair} />}
      <Link to={toggleHref(pathname, params, `device:${device.id}`)} className="button">
        {device.up ? "Fail device" : "Restore device"}
      </Link>
      <EditLink edit="device" className="button">
        Edit
      </EditLink>
      <p className="ml-auto text-ink-2" data-testid="count">
        <strong className="text-[16px] text-ink">{answer.inUse}</strong> active routes
        {answer.inUse !== answer.inUseApproved && <>, {answer.inUseApproved} before the draft</>}
        {answer.inUse !== answer.inUseHealthy && (
          <>
            , <del>{answer.inUseHealthy}</del> without failures
          </>
        )}
      </p>
    </div>
  );
}

const states = ["in-use", "standby", "unusable", "disabled"] as const;
const stateWords = { "in-use": "active", standby: "standby", unusable: "unusable", disabled: "disabled" };

interface LookupBarProps {
  answer: DeviceAnswer;
  /** States, and sources as "from static", that are not shown. */
  hidden: ReadonlySet<string>;
  onToggle: (key: string) => void;
}

/** Looks up an address or a prefix in the table, and says which routes are shown. */
export function LookupBar({ answer, hidden, onToggle }: LookupBarProps) {
  const { planId, params } = usePlan();
  const { device } = answer;
  const sources = [...new Set(answer.stacks.flatMap((stack) => stack.candidates.map((c) => c.source)))];
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-2 border-rule border-b px-4 py-2">
      <Form method="get" className="flex items-center gap-2">
        <HiddenParams but={["lookup"]} />
        <label htmlFor="lookup" className="text-ink-2">
          Route lookup
        </label>
        <input
          id="lookup"
          name="lookup"
          key={answer.lookup?.text ?? ""}
          defaultValue={answer.lookup?.text ?? ""}
          placeholder="address or prefix"
          aria-invalid={answer.lookup?.error ? true : undefined}
          aria-describedby="lookup-answer"
          className="field addr w-44"
        />
        <button type="submit" className="button">
          Look up
        </button>
      </Form>
      <p id="lookup-answer" role="status" className={answer.lookup?.error ? "text-stop" : "text-ink-2"}>
        {answer.lookup?.error ??
          (answer.lookup ? (
            answer.lookup.answer ? (
              <>
                longest match <span className="addr font-semibold text-ink">{answer.lookup.answer}</span>
              </>
            ) : (
              "no active route matches"
            )
          ) : (
            ""
          ))}
        {answer.lookup && answer.lookup.note !== "" && <span> · {answer.lookup.note}</span>}
        {answer.lookup && (
          <>
            {" · "}
            <Link
              className="name-link"
              to={deviceHref(
                planId,
                device.id,
                new URLSearchParams([...params].filter(([key]) => key !== "lookup")),
              )}
            >
              all routes
            </Link>
          </>
        )}
      </p>
      <fieldset className="ml-auto flex flex-wrap items-center gap-3 text-[13px]">
        <legend className="sr-only">Show routes by state and source</legend>
        {states.map((state) => (
          <label key={state} className="flex items-center gap-1">
            <input type="checkbox" checked={!hidden.has(state)} onChange={() => onToggle(state)} />
            {stateWords[state]}
          </label>
        ))}
        <span aria-hidden="true" className="h-4 border-rule border-l" />
        {sources.map((source) => (
          <label key={source} className="flex items-center gap-1">
            <input
              type="checkbox"
              checked={!hidden.has(`from ${source}`)}
              onChange={() => onToggle(`from ${source}`)}
            />
            {source}
          </label>
        ))}
      </fieldset>
    </div>
  );
}

/** The device's VRFs, where it has several. */
export function VrfChoice({ answer }: { answer: DeviceAnswer }) {
  const { planId, params } = usePlan();
  const { device } = answer;
  if (answer.vrfs.length < 2) return null;
  return (
    <p className="flex gap-3 border-rule border-b px-4 py-1 text-[13px]">
      VRF
      {answer.vrfs.map((vrf) => (
        <Link
          key={vrf}
          aria-current={vrf === answer.vrf ? "true" : undefined}
          className={vrf === answer.vrf ? "font-semibold" : "name-link"}
          to={deviceHref(planId, device.id, params, { vrf })}
        >
          {vrf}
        </Link>
      ))}
    </p>
  );
}
