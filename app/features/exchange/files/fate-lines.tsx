import { createColumnHelper } from "@tanstack/react-table";
import { useMemo, useState } from "react";
import type { LineFate } from "../../../../exchange/facts/index.ts";
import { DataTable } from "../../../ui/table.tsx";
import { ChooseSome } from "../../../ui/toggle-group.tsx";

const fates = [
  { value: "not-understood", text: "not understood" },
  { value: "doubtful", text: "assumed" },
  { value: "taken", text: "read" },
  { value: "known", text: "ignored" },
];

const signs: Record<LineFate["fate"], { sign: string; looks: string; text: string }> = {
  taken: { sign: "+", looks: "", text: "read" },
  doubtful: { sign: "?", looks: "text-warn font-medium", text: "assumed" },
  known: { sign: "=", looks: "text-ink-3", text: "ignored" },
  "not-understood": { sign: "×", looks: "text-stop font-medium", text: "not understood" },
};

const column = createColumnHelper<LineFate>();
const columns = [
  column.accessor("file", { header: "file", size: 120 }),
  column.accessor("line", { header: "line", size: 50 }),
  column.accessor("text", {
    header: "text",
    size: 430,
    cell: ({ getValue }) => <span className="addr whitespace-pre-wrap break-all">{getValue()}</span>,
  }),
  column.accessor("fate", {
    header: "result",
    size: 120,
    cell: ({ getValue }) => {
      const { sign, looks, text } = signs[getValue()];
      return (
        <span className={looks}>
          <span aria-hidden="true">{sign}</span> {text}
        </span>
      );
    },
  }),
  column.accessor("detail", { header: "meaning", size: 320 }),
];

/** Every line of the input with its result; optionally errors first. */
export function FateLines({ lines }: { lines: readonly LineFate[] }) {
  const [shown, setShown] = useState<string[]>([]);
  const [sorting, setSorting] = useState({ id: "file", desc: false });
  const rows = useMemo(() => {
    const kept = shown.length === 0 ? lines : lines.filter((line) => shown.includes(line.fate));
    const key = sorting.id as keyof LineFate;
    const order = (a: LineFate, b: LineFate) =>
      a[key] < b[key] ? -1 : a[key] > b[key] ? 1 : a.line - b.line;
    return [...kept].sort((a, b) => (sorting.desc ? order(b, a) : order(a, b)));
  }, [lines, shown, sorting]);
  return (
    <div className="flex h-[46vh] flex-col gap-2">
      <ChooseSome label="Results" options={fates} values={shown} onChange={setShown} />
      <DataTable
        label="Lines"
        columns={columns as Parameters<typeof DataTable<LineFate>>[0]["columns"]}
        rows={rows}
        keyOf={(line, index) => `${index} ${line.file} ${line.line}`}
        sorting={sorting}
        onSort={(id, desc) => setSorting({ id, desc })}
        hidden={[]}
      />
    </div>
  );
}
