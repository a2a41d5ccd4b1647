import { Link } from "react-router";
import { AccountLinks } from "../../ui/account-links.tsx";
import { ClockTime } from "../../ui/clock-time.tsx";
import { Page } from "./page.tsx";

interface RecordViewProps {
  /** The account that is signed in; null where nobody has to. */
  who: string | null;
  rows: {
    number: number;
    at: Date;
    who: string;
    address: string;
    action: string;
    subject: string;
    status: number;
  }[];
  /** Rows before this number are on another page; null where there are none. */
  earlier: number | null;
}

/** Who did what, when, from where, to what, and how it was answered: newest first. */
export function RecordView({ who, rows, earlier }: RecordViewProps) {
  return (
    <Page title="Audit log" links={<AccountLinks who={who} administers />}>
      <p className="text-ink-2">
        Every change that was requested, made or refused. Each row contains the digest of the row before it;{" "}
        <code className="addr">bin/audit-log verify</code> checks the chain.{" "}
        <a className="name-link" href="/audit-log/rows" download>
          Download as JSON lines
        </a>
      </p>
      <table className="mt-3 w-full text-left text-[13px]">
        <thead className="text-ink-2">
          <tr>
            {["", "time", "user", "address", "action", "target", "status"].map((head) => (
              <th key={head} className="pr-3 font-medium">
                {head}
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
              <td className="pr-3 font-medium">{row.who}</td>
              <td className="pr-3">{row.address}</td>
              <td className="pr-3">{row.action}</td>
              <td className="break-all pr-3">{row.subject}</td>
              <td className={row.status >= 400 ? "text-stop" : ""}>{row.status}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {earlier !== null && (
        <p className="mt-2">
          <Link className="name-link" to={`/audit-log?before=${earlier}`}>
            Older entries
          </Link>
        </p>
      )}
    </Page>
  );
}
