import { Form, Link, useSearchParams } from "react-router";
import { AccountLinks } from "../../ui/account-links.tsx";
import { Button } from "../../ui/button.tsx";
import { ClockTime } from "../../ui/clock-time.tsx";
import { FormPick } from "../../ui/select.tsx";
import { Page } from "./page.tsx";

interface AuditLogViewProps {
  /** The account that is signed in; null without accounts. */
  who: string | null;
  filter: { who: string; plan: string; event: string; from: string; to: string };
  events: readonly string[];
  plans: readonly { id: string; name: string }[];
  rows: {
    number: number;
    at: Date;
    who: string;
    address: string;
    event: string;
    text: string;
    plan: { id: string; name: string } | null;
    request: string;
    status: number;
  }[];
  /** Rows before this number are on another page; null for the last page. */
  earlier: number | null;
}

/** Every change and refused request in a sentence, newest first. */
export function AuditLogView({ who, filter, events, plans, rows, earlier }: AuditLogViewProps) {
  const [params] = useSearchParams();
  const older = new URLSearchParams(params);
  older.set("before", String(earlier));
  const filtered = Object.values(filter).some((value) => value !== "");
  return (
    <Page title="Audit log" links={<AccountLinks who={who} administers />}>
      <p className="text-ink-2">
        Every change and every refused request. <code className="addr">bin/audit-log verify</code> checks that
        no row was altered.{" "}
        <a className="name-link" href="/audit-log/rows" download>
          Download as JSON lines
        </a>
      </p>
      <Form method="get" aria-label="Filter" className="mt-3 flex flex-wrap items-end gap-2">
        <Labelled label="User" htmlFor="audit-who">
          <input id="audit-who" name="who" defaultValue={filter.who} className="field w-36" />
        </Labelled>
        <Labelled label="Plan" htmlFor="audit-plan">
          <FormPick
            id="audit-plan"
            name="plan"
            defaultValue={filter.plan}
            className="max-w-56"
            choices={[
              { value: "", label: "all plans" },
              ...plans.map(({ id, name }) => ({ value: id, label: name })),
            ]}
          />
        </Labelled>
        <Labelled label="Event" htmlFor="audit-event">
          <FormPick
            id="audit-event"
            name="event"
            defaultValue={filter.event}
            choices={[
              { value: "", label: "all events" },
              ...events.map((event) => ({ value: event, label: event })),
            ]}
          />
        </Labelled>
        <Labelled label="From (UTC)" htmlFor="audit-from">
          <input id="audit-from" type="date" name="from" defaultValue={filter.from} className="field w-36" />
        </Labelled>
        <Labelled label="To (UTC)" htmlFor="audit-to">
          <input id="audit-to" type="date" name="to" defaultValue={filter.to} className="field w-36" />
        </Labelled>
        <Button type="submit">Filter</Button>
        {filtered && (
          <Link className="name-link pb-1" to="/audit-log">
            Clear filter
          </Link>
        )}
      </Form>
      {rows.length === 0 && (
        <p className="mt-4 text-ink-2">{filtered ? "No entries match the filter." : "No entries yet."}</p>
      )}
      {rows.length > 0 && (
        <table className="mt-3 w-full text-left text-[13px]">
          <thead className="text-ink-2">
            <tr>
              {["", "time", "entry", "plan", "address", "status"].map((head) => (
                <th key={head} className="pr-3 font-medium">
                  {head || <span className="sr-only">number</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.number} className="border-rule border-t align-top">
                <td className="pr-3 text-ink-2">{row.number}</td>
                <td className="whitespace-nowrap pr-3">
                  <ClockTime at={row.at} />
                </td>
                <td className="pr-3" title={row.request}>
                  <span className="font-medium">{row.who}</span> {row.text}
                </td>
                <td className="pr-3">
                  {row.plan && (
                    <Link className="name-link" to={`/plans/${row.plan.id}/map`}>
                      {row.plan.name}
                    </Link>
                  )}
                </td>
                <td className="pr-3">{row.address}</td>
                <td className={row.status >= 400 ? "text-stop" : ""}>
                  {row.status >= 400 ? `refused (${row.status})` : row.status}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {earlier !== null && (
        <p className="mt-2">
          <Link className="name-link" to={`?${older}`}>
            Older entries
          </Link>
        </p>
      )}
    </Page>
  );
}

function Labelled({
  label,
  htmlFor,
  children,
}: {
  label: string;
  htmlFor: string;
  children: React.ReactNode;
}) {
  return (
    <span className="flex flex-col">
      <label htmlFor={htmlFor} className="text-[13px] text-ink-2">
        {label}
      </label>
      {children}
    </span>
  );
}
