import { revisionText } from "../../../core/plan/index.ts";
import type { HistoryEntry } from "../../../server/plans.ts";
import type { Drawing } from "../../drawing/types.ts";
import type { Book } from "../../queries/book.ts";
import { flowStateText } from "../../ui/verdict.tsx";
import { BookDevicePage } from "./book-device.tsx";
import { BookDrawing } from "./book-drawing.tsx";

export interface BookProps {
  book: Book;
  drawing: Drawing;
  revision: number;
  /** When the book was made, as people write it. */
  made: string;
  history: readonly HistoryEntry[];
}

/** The network on paper: the drawing, what the flows survive, the findings, a page for each device, the history. */
export function BookPages({ book, drawing, revision, made, history }: BookProps) {
  const labels = Object.fromEntries(book.devices.map(({ id, label }) => [id, label]));
  const roles = Object.fromEntries(book.devices.map(({ id, role }) => [id, role]));
  return (
    <main>
      <section className="page">
        <h1>{book.name}</h1>
        <p className="quiet">
          {revisionText(revision)}, {made}. {book.devices.length} devices, {book.flows.length} flows.
        </p>
        <p>{book.description}</p>
        <BookDrawing drawing={drawing} roles={roles} labels={labels} />
      </section>
      <section className="page">
        <h2>Contents</h2>
        <ol className="contents">
          <li>
            <a href="#board">Flow resilience</a>
          </li>
          <li>
            <a href="#findings">Findings</a>
          </li>
          {book.devices.map(({ id, label }) => (
            <li key={id}>
              <a href={`#device-${id}`}>{label}</a>
            </li>
          ))}
          <li>
            <a href="#history">History</a>
          </li>
        </ol>
      </section>
      <BoardPage book={book} />
      <FindingsPage book={book} labels={labels} />
      {book.devices.map((device) => (
        <BookDevicePage key={device.id} device={device} />
      ))}
      <HistoryPage history={history} />
    </main>
  );
}

function BoardPage({ book: { board, flows } }: { book: Book }) {
  return (
    <section className="page" id="board">
      <h2>Flow resilience</h2>
      {!board && (
        <p>{flows.length === 0 ? "No flows." : "The plan is too large for this page. See Failures."}</p>
      )}
      {board && (
        <table>
          <thead>
            <tr>
              <th>flow</th>
              <th>healthy</th>
              <th>broken by any of</th>
            </tr>
          </thead>
          <tbody>
            {board.rows.map(({ flow, label, nominal, breakers }) => (
              <tr key={flow}>
                <td>{label}</td>
                <td>{nominal.arrival ? flowStateText(nominal) : nominal.verdict}</td>
                <td>
                  {breakers.length === 0
                    ? nominal.fine
                      ? `nothing: ${nominal.arrival ? "is denied under" : "survives"} any single failure`
                      : `${nominal.arrival ? "is not denied" : "fails"} without any failure`
                    : breakers
                        .map(
                          ([ref]) =>
                            board.columns.find(({ failed }) => failed.length === 1 && failed[0] === ref)
                              ?.plates[0]?.label ?? ref,
                        )
                        .join(", ")}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function FindingsPage({
  book: { findings },
  labels,
}: {
  book: Book;
  labels: Readonly<Record<string, string>>;
}) {
  return (
    <section className="page" id="findings">
      <h2>Findings</h2>
      {!findings && <p>The plan is too large for this page. See Findings.</p>}
      {findings && findings.findings.length === 0 && <p>No findings.</p>}
      {findings?.kinds.map(({ code, title }) => (
        <div key={code}>
          <h3>{title}</h3>
          <ul>
            {findings.findings
              .filter((finding) => finding.code === code)
              .map(({ device, subject, text, dismissed }) => (
                <li key={`${device} ${subject}`}>
                  {device && <strong>{labels[device] ?? device}: </strong>}
                  {text}
                  {dismissed ? ` (accepted: ${dismissed})` : ""}
                </li>
              ))}
          </ul>
        </div>
      ))}
    </section>
  );
}

function HistoryPage({ history }: { history: readonly HistoryEntry[] }) {
  return (
    <section className="page" id="history">
      <h2>History</h2>
      <table>
        <thead>
          <tr>
            <th>revision</th>
            <th>when</th>
            <th>who</th>
            <th>why</th>
          </tr>
        </thead>
        <tbody>
          {history.map(({ number, madeAt, author, why, kind }) => (
            <tr key={number}>
              <td>{number}</td>
              <td>{new Date(madeAt).toISOString().slice(0, 16).replace("T", " ")}</td>
              <td>{author}</td>
              <td>
                {kind === "undo" || kind === "redo" ? `${kind} of ` : ""}
                {why}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
