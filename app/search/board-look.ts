/** How the board is arranged: which columns show, and in which order; as the page's address says it. */
export interface BoardLook {
  /** Interfaces beside links, devices and watches: most do what their link does. */
  interfaces: boolean;
  bySite: boolean;
  onlyBreaking: boolean;
  text: string;
  /** Sites of which the flows, or the failures, are folded. */
  foldedRows: readonly string[];
  foldedColumns: readonly string[];
}

const switches = { interfaces: "interfaces", bySite: "by-site", onlyBreaking: "breaking" } as const;
const folds = { foldedRows: "fold-flows", foldedColumns: "fold-failures" } as const;

/** Reads the board's arrangement from an address, with defaults. */
export function boardLookOf(params: URLSearchParams): BoardLook {
  return {
    interfaces: params.has(switches.interfaces),
    bySite: params.has(switches.bySite),
    onlyBreaking: params.has(switches.onlyBreaking),
    text: params.get("find") ?? "",
    foldedRows: params.getAll(folds.foldedRows),
    foldedColumns: params.getAll(folds.foldedColumns),
  };
}

/** The address with the board arranged so; everything else in it is left alone. */
export function withBoardLook(params: URLSearchParams, look: BoardLook): URLSearchParams {
  const next = new URLSearchParams(params);
  for (const [field, key] of Object.entries(switches) as [keyof typeof switches, string][]) {
    if (look[field]) next.set(key, "1");
    else next.delete(key);
  }
  for (const [field, key] of Object.entries(folds) as [keyof typeof folds, string][]) {
    next.delete(key);
    for (const site of look[field]) next.append(key, site);
  }
  if (look.text) next.set("find", look.text);
  else next.delete("find");
  return next;
}
