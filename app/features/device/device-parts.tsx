import { formatRouteLine } from "../../../core/authoring/index.ts";
import type { MarkRule, PolicyRule } from "../../../core/plan/index.ts";
import { EditLink } from "../../plan/rights.tsx";
import type { DeviceAnswer } from "../../queries/device.ts";

/** What a device does beside its routes: translation, policy, tables of their own, learned routes; each edited in place. */
export function DeviceParts({ answer }: { answer: DeviceAnswer }) {
  if (answer.device.role === "internet") return null;
  return (
    <>
      <Translations answer={answer} />
      <DestinationTranslations answer={answer} />
      <Marks answer={answer} />
      <PolicyRules answer={answer} />
      <PolicyTables answer={answer} />
      <LearnedRoutes answer={answer} />
    </>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="mt-5">
      <h2 className="font-semibold">{title}</h2>
      {children}
    </section>
  );
}

function Translations({ answer }: { answer: DeviceAnswer }) {
  return (
    <Part title="Source translation">
      <ul>
        {answer.translations.map((nat, n) => (
          <li key={`${nat.out} ${nat.from?.join()} ${nat.to}`} className="border-rule border-t py-1">
            out <span className="addr font-semibold">{nat.out}</span>
            {nat.from && (
              <>
                {" "}
                from <span className="addr">{nat.from.join(", ")}</span>
              </>
            )}
            : becomes{" "}
            <span className="addr">{nat.to === "interface" ? "the interface address" : nat.to}</span>{" "}
            <EditLink
              className="name-link text-[13px] text-ink-2"
              edit={`nat:${n}`}
              aria-label={`Edit the translation on ${nat.out}`}
            >
              edit
            </EditLink>
          </li>
        ))}
      </ul>
      <EditLink className="name-link text-[13px] text-ink-2" edit="nat:">
        Add translation
      </EditLink>
    </Part>
  );
}

function DestinationTranslations({ answer }: { answer: DeviceAnswer }) {
  return (
    <Part title="Destination translation">
      <ul>
        {(answer.settings.destNat ?? []).map((nat, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: an entry's identity is its position: the first match decides.
          <li key={`${n} ${nat.to}`} className="border-rule border-t py-1">
            in <span className="addr font-semibold">{[nat.in].flat().join(", ")}</span> to{" "}
            <span className="addr">{nat.to}</span>
            {nat.protocol && ` ${nat.protocol}${nat.port === undefined ? "" : ` ${nat.port}`}`}: becomes{" "}
            <span className="addr">{nat.via}</span>
            {nat.viaPort !== undefined && ` port ${nat.viaPort}`}{" "}
            <EditLink
              className="name-link text-[13px] text-ink-2"
              edit={`destination:${n}`}
              aria-label={`Edit the destination translation of ${nat.to}`}
            >
              edit
            </EditLink>
          </li>
        ))}
      </ul>
      <EditLink
        className="name-link text-[13px] text-ink-2"
        edit="destination:"
        aria-label="Add destination translation"
      >
        Add translation
      </EditLink>
    </Part>
  );
}

/** What a mark or a policy table matches, each condition in a few words. */
function conditions(match: Partial<MarkRule> & { mark?: number }): string[] {
  return [
    match.in?.length ? `received on ${match.in.join(", ")}` : "",
    match.from?.length ? `from ${match.from.join(", ")}` : "",
    match.to?.length ? `to ${match.to.join(", ")}` : "",
    match.protocol ? `${match.protocol}${match.port ? ` port ${match.port}` : ""}` : "",
    match.mark === undefined ? "" : `with mark ${match.mark}`,
  ].filter(Boolean);
}

function Marks({ answer }: { answer: DeviceAnswer }) {
  return (
    <Part title="Marks">
      <ol className="list-inside list-decimal">
        {(answer.settings.marks ?? []).map((mark, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a mark's identity is its position: the last match decides.
          <li key={`${n} ${mark.set}`} className="border-rule border-t py-1">
            mark {mark.set} for packets {conditions(mark).join(", ") || "of any kind"}{" "}
            <EditLink
              className="name-link text-[13px] text-ink-2"
              edit={`mark:${n}`}
              aria-label={`Edit mark ${n + 1}`}
            >
              edit
            </EditLink>
          </li>
        ))}
      </ol>
      <EditLink className="name-link text-[13px] text-ink-2" edit="mark:">
        Add mark
      </EditLink>
    </Part>
  );
}

function ruleText({ action, from, to, source, destination, protocol, port }: PolicyRule): string {
  const parts = [
    action,
    from && `from ${from.join(", ")}`,
    to && `to ${to.join(", ")}`,
    source && `source ${source.join(", ")}`,
    destination && `destination ${destination.join(", ")}`,
    protocol,
    port && `port ${port}`,
  ];
  return parts.filter(Boolean).join(" ");
}

function PolicyRules({ answer }: { answer: DeviceAnswer }) {
  const { policy } = answer.settings;
  const said = [
    policy?.default && `between zones: ${policy.default}`,
    policy?.sameZone && `within a zone: ${policy.sameZone}`,
    policy?.trust && `from more to less trusted: ${policy.trust.join(", ")}`,
  ].filter(Boolean);
  return (
    <Part title="Policy">
      <ol className="list-inside list-decimal">
        {(policy?.rules ?? []).map((rule, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a rule's identity is its position: the first match decides.
          <li key={`${n} ${ruleText(rule)}`} className="border-rule border-t py-1">
            {ruleText(rule)}{" "}
            <EditLink
              className="name-link text-[13px] text-ink-2"
              edit={`rule:${n}`}
              aria-label={`Edit rule ${n + 1}`}
            >
              edit
            </EditLink>
          </li>
        ))}
      </ol>
      <p className="text-ink-2">
        {policy?.rules.length ? "All other traffic " : ""}
        {said.length > 0 ? said.join("; ") : "profile default"}.{" "}
        <EditLink className="name-link text-[13px] text-ink-2" edit="policy" aria-label="Edit policy">
          edit
        </EditLink>
      </p>
      <EditLink className="name-link text-[13px] text-ink-2" edit="rule:">
        Add rule
      </EditLink>
    </Part>
  );
}

function PolicyTables({ answer }: { answer: DeviceAnswer }) {
  return (
    <Part title="Policy tables">
      <ul>
        {answer.tables.map((table) => (
          <li key={table.name} className="border-rule border-t py-1">
            <span className="addr font-semibold">{table.name}</span>{" "}
            <EditLink
              className="name-link text-[13px] text-ink-2"
              edit={`table:${table.name}`}
              aria-label={`Edit policy table ${table.name}`}
            >
              edit
            </EditLink>
            <p className="text-ink-2">
              {table.lookup === "first" ? "looked up first" : "then the main table"}, for packets{" "}
              {conditions(table.match).join(", ")}
            </p>
            <ul className="pl-2">
              {table.routes.map((route, n) => (
                <li key={formatRouteLine(route)}>
                  <span className="addr break-words">{formatRouteLine(route)}</span>{" "}
                  <EditLink
                    edit={`table-route:${table.name}/${n}`}
                    aria-label={`Edit the route to ${route.to} of ${table.name}`}
                  >
                    edit
                  </EditLink>
                </li>
              ))}
            </ul>
            <EditLink
              className="name-link text-[13px] text-ink-2"
              edit={`table-route:${table.name}/`}
              aria-label={`Add route to ${table.name}`}
            >
              Add route
            </EditLink>
          </li>
        ))}
      </ul>
      <EditLink className="name-link text-[13px] text-ink-2" edit="table:">
        Add policy table
      </EditLink>
    </Part>
  );
}

function LearnedRoutes({ answer }: { answer: DeviceAnswer }) {
  return (
    <Part title="Learned routes">
      <ul>
        {answer.learned.map((route, n) => (
          <li
            key={`${route.protocol} ${route.to} ${route.via} ${route.out}`}
            className="border-rule border-t py-1"
          >
            <span className="addr break-words">
              {route.to}
              {route.via ? ` via ${route.via}` : ""}
              {route.out ? ` out ${route.out}` : ""}
            </span>{" "}
            {route.protocol}{" "}
            <EditLink
              className="name-link text-[13px] text-ink-2"
              edit={`learned:${n}`}
              aria-label={`Edit the learned route to ${route.to}`}
            >
              edit
            </EditLink>
          </li>
        ))}
      </ul>
      <EditLink className="name-link text-[13px] text-ink-2" edit="learned:">
        Add learned route
      </EditLink>
    </Part>
  );
}
