import {
  type ColumnDef,
  flexRender,
  getCoreRowModel,
  type SortingState,
  useReactTable,
  type VisibilityState,
} from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";

interface DataTableProps<T> {
  label: string;
  columns: ColumnDef<T, unknown>[];
  rows: readonly T[];
  keyOf: (row: T, index: number) => string;
  /** How it is sorted; rows come in that order already. */
  sorting: { id: string; desc: boolean };
  onSort: (id: string, desc: boolean) => void;
  hidden: readonly string[];
  rowHeight?: number;
}

/** A table of many rows, of which only those in sight are drawn; a head that is clicked sorts by it. */
export function DataTable<T>({
  label,
  columns,
  rows,
  keyOf,
  sorting,
  onSort,
  hidden,
  rowHeight = 26,
}: DataTableProps<T>) {
  const box = useRef<HTMLDivElement>(null);
  const visibility: VisibilityState = Object.fromEntries(hidden.map((id) => [id, false]));
  const table = useReactTable({
    data: rows as T[],
    columns,
    state: { sorting: [sorting] as SortingState, columnVisibility: visibility },
    manualSorting: true,
    getCoreRowModel: getCoreRowModel(),
    getRowId: keyOf,
  });
  const body = table.getRowModel().rows;
  const virtual = useVirtualizer({
    count: body.length,
    getScrollElement: () => box.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    initialRect: { width: 1000, height: 700 },
  });
  const items = virtual.getVirtualItems();
  const before = items[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const span = table.getVisibleLeafColumns().length;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keyboard (WCAG 2.1.1).
    <section ref={box} tabIndex={0} aria-label={label} className="min-h-0 flex-1 overflow-auto">
      <table
        className="w-full min-w-[900px] table-fixed border-collapse text-left text-[13px] leading-[18px]"
        aria-rowcount={body.length + 1}
      >
        <thead className="sticky top-0 z-[1] bg-ground">
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id} className="border-rule border-b">
              {group.headers.map((header) => {
                const here = sorting.id === header.column.id;
                return (
                  <th
                    key={header.id}
                    style={{ width: header.column.columnDef.size }}
                    aria-sort={here ? (sorting.desc ? "descending" : "ascending") : undefined}
                    className="px-2 py-1 font-normal text-ink-2 first:pl-4"
                  >
                    <button
                      type="button"
                      className={here ? "font-semibold text-ink" : ""}
                      onClick={() => onSort(header.column.id, here && !sorting.desc)}
                    >
                      {flexRender(header.column.columnDef.header, header.getContext())}
                      <span aria-hidden="true">{here ? (sorting.desc ? " ↓" : " ↑") : ""}</span>
                    </button>
                  </th>
                );
              })}
            </tr>
          ))}
        </thead>
        <tbody>
          {before > 0 && (
            <tr style={{ height: before }}>
              <td colSpan={span} />
            </tr>
          )}
          {items.map((item) => (
            <tr
              key={body[item.index].id}
              ref={virtual.measureElement}
              data-index={item.index}
              aria-rowindex={item.index + 2}
              className="border-rule border-b align-top"
            >
              {body[item.index].getVisibleCells().map((cell) => (
                <td key={cell.id} className="break-words px-2 py-[3px] first:pl-4">
                  {flexRender(cell.column.columnDef.cell, cell.getContext())}
                </td>
              ))}
            </tr>
          ))}
          {after > 0 && (
            <tr style={{ height: after }}>
              <td colSpan={span} />
            </tr>
          )}
        </tbody>
      </table>
    </section>
  );
}
