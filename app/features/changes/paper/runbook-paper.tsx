import type { RunbookText } from "./runbook-text.ts";

/** A runbook on A4: a box for each check and step, and space for a name and a time. */
export function RunbookPaper({
  told: { title, about, verdict, remarks, visits, record },
}: {
  told: RunbookText;
}) {
  return (
    <main>
      <h1>{title}</h1>
      <table>
        <tbody>
          {about.map(([term, value]) => (
            <tr key={term}>
              <th scope="row" style={{ width: "28mm" }}>
                {term}
              </th>
              <td style={{ whiteSpace: "pre-wrap" }}>{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>{verdict}</p>
      {remarks.map((text) => (
        <p key={text}>{text}</p>
      ))}
      {visits.map((visit) => (
        <section key={visit.title}>
          <h3>{visit.title}</h3>
          <table>
            <tbody>
              {visit.before.map((text) => (
                <Row key={text} term="before" text={text} />
              ))}
              {visit.steps.map(({ text, own, done }, n) => (
                <Row key={text} term={`step ${n + 1}`} text={text} own={own} done={done} strong />
              ))}
              {visit.after.map((text) => (
                <Row key={text} term="after" text={text} />
              ))}
              {visit.steps.toReversed().map(({ undo }, n) => (
                <Row key={undo} term={n === 0 ? "rollback" : ""} text={undo} quiet />
              ))}
            </tbody>
          </table>
          {visit.meanwhile.map((text) => (
            <p key={text}>
              <strong>{text}</strong>
            </p>
          ))}
        </section>
      ))}
      <h3>History</h3>
      {record.map((text) => (
        <p key={text} className="quiet" style={{ margin: 0 }}>
          {text}
        </p>
      ))}
    </main>
  );
}

interface RowProps {
  term: string;
  text: string;
  own?: string;
  done?: string;
  strong?: boolean;
  quiet?: boolean;
}

function Row({ term, text, own, done, strong, quiet }: RowProps) {
  return (
    <tr>
      <th scope="row" style={{ width: "20mm" }}>
        {term}
      </th>
      <td style={{ width: "6mm" }}>{quiet ? "" : done ? "☒" : "☐"}</td>
      <td className={quiet ? "quiet" : undefined}>
        {strong ? <strong>{text}</strong> : text}
        {own && (
          <pre style={{ margin: "1mm 0 0", whiteSpace: "pre-wrap" }}>
            <code>{own}</code>
          </pre>
        )}
      </td>
      <td className="quiet" style={{ width: "34mm" }}>
        {done}
      </td>
    </tr>
  );
}
