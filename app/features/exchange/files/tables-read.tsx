import { useState } from "react";
import type { Layout, TokenRole } from "../../../../exchange/layout.ts";
import type { ColouredTable } from "../../../../exchange/readers/text/table.ts";
import { Pick } from "../../../ui/select.tsx";
import { KeepLayout } from "./keep-layout.tsx";
import { TableColours } from "./table-colours.tsx";

interface TablesReadProps {
  tables: readonly ColouredTable[];
  words: Readonly<Record<string, string>>;
  taught: Layout["shapes"];
  onTaught: (shapes: Layout["shapes"]) => void;
}

/** The text tables that were read, one at a time, for review and correction; corrections are saved as a layout. */
export function TablesRead({ tables, words, taught, onTaught }: TablesReadProps) {
  const [file, setFile] = useState("");
  const table = tables.find((one) => one.file === file) ?? tables[0];
  if (!table) return <p className="text-ink-2">No text tables in these files.</p>;
  const teach = (shape: string, roles: TokenRole[]) => onTaught({ ...taught, [shape]: roles });
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-3">
        {tables.length > 1 ? (
          <Pick
            aria-label="File"
            value={table.file}
            onChange={setFile}
            choices={tables.map((one) => ({ value: one.file, label: one.file }))}
          />
        ) : (
          <span className="font-medium">{table.file}</span>
        )}
        {table.layouts.filter((name) => name !== "").length > 0 && (
          <span className="text-ink-2">
            Recognized: {table.layouts.filter((name) => name !== "").join(", ")}
          </span>
        )}
      </div>
      <TableColours key={table.file} table={table} onTeach={teach} taught={taught} />
      <KeepLayout shapes={{ ...shapesOf(table), ...taught }} words={words} />
    </div>
  );
}

/** The shapes of a table's rows, with the roles that they were read with. */
function shapesOf(table: ColouredTable): Layout["shapes"] {
  return Object.fromEntries(
    table.lines
      .filter(({ shape }) => /\b(?:prefix|address)\b/.test(shape))
      .map(({ shape, tokens }) => [shape, tokens.map(({ role }) => role)]),
  );
}
