import { useState } from "react";
import type { Layout, TokenRole } from "../../../../exchange/layout.ts";
import type { ColouredTable } from "../../../../exchange/readers/text/table.ts";
import { Pick } from "../../../ui/select.tsx";
import { allRoles, roleNames } from "./role-names.ts";

interface TableColoursProps {
  table: ColouredTable;
  /** Gives the tokens of all lines of a shape their roles. */
  onTeach: (shape: string, roles: TokenRole[]) => void;
  taught: Layout["shapes"];
}

interface Chosen {
  line: number;
  token: number;
}

/** A text table as it was read: tokens colored by role, with the resulting facts beside them; a click changes a role.
 * */
export function TableColours({ table, onTeach, taught }: TableColoursProps) {
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const row = table.lines.find(({ line }) => line === chosen?.line);
  const group = row ? table.lines.filter(({ shape }) => shape === row.shape && shape !== "") : [];
  const token = chosen && row?.tokens[chosen.token];
  const move = (event: React.KeyboardEvent) => {
    if (!chosen) return;
    const next = steps[event.key]?.(table, chosen);
    if (!next) return;
    event.preventDefault();
    setChosen(next);
    document.getElementById(idOf(next))?.focus();
  };
  const first = table.lines.find(({ tokens }) => tokens.length > 0);
  const tabbed = chosen ?? (first ? { line: first.line, token: 0 } : null);
  return (
    <div className="flex flex-col gap-2">
      <Legend />
      <div className="flex min-h-[30px] flex-wrap items-center gap-3" aria-live="polite">
        {token && row ? (
          <>
            <span>
              <span className="addr font-semibold">{row.text.slice(token.start, token.end)}</span> is read as
            </span>
            <Pick
              aria-label="Role of the token"
              value={token.role}
              onChange={(role) => {
                const roles = row.tokens.map(({ role: own }, i) =>
                  i === chosen.token ? (role as TokenRole) : own,
                );
                onTeach(row.shape, roles);
              }}
              choices={allRoles.map((value) => ({ value, label: roleNames[value] }))}
            />
            <span className="text-ink-2">
              on {group.length} {group.length === 1 ? "line" : "lines"} of this shape
              {Object.hasOwn(taught, row.shape) ? ", corrected" : ""}
            </span>
          </>
        ) : (
          <span className="text-ink-2">
            Select a token to correct its role on all lines of the same shape. Arrow keys move between tokens.
          </span>
        )}
      </div>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the tokens within are the buttons; arrows go between them. */}
      <div onKeyDown={move} className="max-h-[46vh] overflow-auto border border-rule bg-panel">
        {table.lines.map((entry) => (
          <div
            key={entry.line}
            data-line={entry.line}
            className={`grid grid-cols-[3rem_minmax(0,1fr)_minmax(0,20rem)] gap-2 border-rule border-b px-1 ${row && entry.shape !== "" && entry.shape === row.shape ? "bg-sunk" : ""}`}
          >
            <span className="text-right text-[12px] text-ink-3">{entry.line}</span>
            <code className="addr whitespace-pre-wrap break-all text-[13px]">
              <Line entry={entry} chosen={chosen} tabbed={tabbed} onChoose={setChosen} />
            </code>
            <span
              className={`text-[13px] ${entry.fate === "doubtful" ? "text-warn" : entry.fate === "not-understood" ? "text-stop" : "text-ink-2"}`}
            >
              {entry.detail}
            </span>
          </div>
        ))}
      </div>
    </div>
  );
}

const idOf = ({ line, token }: Chosen) => `token-${line}-${token}`;

const steps: Readonly<Record<string, (table: ColouredTable, at: Chosen) => Chosen | null>> = {
  ArrowRight: (table, { line, token }) => within(table, line, token + 1),
  ArrowLeft: (table, { line, token }) => within(table, line, token - 1),
  ArrowDown: (table, at) => beside(table, at, 1),
  ArrowUp: (table, at) => beside(table, at, -1),
};

function within(table: ColouredTable, line: number, token: number): Chosen | null {
  const count = table.lines.find((entry) => entry.line === line)?.tokens.length ?? 0;
  return token >= 0 && token < count ? { line, token } : null;
}

function beside(table: ColouredTable, { line, token }: Chosen, step: 1 | -1): Chosen | null {
  const rows = table.lines.filter(({ tokens }) => tokens.length > 0);
  const next = rows[rows.findIndex((entry) => entry.line === line) + step];
  return next ? { line: next.line, token: Math.min(token, next.tokens.length - 1) } : null;
}

interface LineProps {
  entry: ColouredTable["lines"][number];
  chosen: Chosen | null;
  tabbed: Chosen | null;
  onChoose: (chosen: Chosen) => void;
}

function Line({ entry: { line, text, tokens }, chosen, tabbed, onChoose }: LineProps) {
  const parts: React.ReactNode[] = [];
  let at = 0;
  for (const [i, { start, end, role }] of tokens.entries()) {
    const here = chosen?.line === line && chosen.token === i;
    const word = text.slice(start, end);
    parts.push(
      text.slice(at, start),
      <button
        key={start}
        id={idOf({ line, token: i })}
        type="button"
        tabIndex={tabbed?.line === line && tabbed.token === i ? 0 : -1}
        aria-pressed={here}
        aria-label={`${word}: ${roleNames[role]}`}
        onClick={() => onChoose({ line, token: i })}
        onFocus={() => onChoose({ line, token: i })}
        className={`role-${role} rounded-[2px] ${here ? "outline-2 outline-ink" : ""}`}
      >
        {word}
      </button>,
    );
    at = end;
  }
  parts.push(text.slice(at));
  return parts;
}

/** The meaning of each color. */
function Legend() {
  return (
    <ul aria-label="Color key" className="flex flex-wrap gap-2 text-[12px]">
      {allRoles.map((role) => (
        <li key={role} className={`role-${role} rounded-[2px] px-1`}>
          {roleNames[role]}
        </li>
      ))}
    </ul>
  );
}
