/** A moment of an outage: one that the plan has saved, or elements that fail at once and perhaps heal. */
export interface MomentAsked {
  outage: string;
  fail: string[];
  healMs: number | null;
  /** Milliseconds from the first failure. */
  atMs: number;
}

/** The conditions: initially failed elements, and the moment of an outage. */
export interface Looked {
  down: readonly string[];
  moment: MomentAsked | null;
}

/** The outage that an address names; its `outage` is "" and its `fail` empty where it names none. */
export function outageIn(params: URLSearchParams): Omit<MomentAsked, "atMs"> {
  return {
    outage: params.get("outage") ?? "",
    fail: params.getAll("fail"),
    healMs: numberIn(params, "heal"),
  };
}

/** The moment that an address names; null where it names none. */
export function momentIn(params: URLSearchParams): MomentAsked | null {
  const atMs = numberIn(params, "at");
  const { fail, ...rest } = outageIn(params);
  // As on the timeline: if no elements are chosen, those that are already failed are the outage.
  const outage = { ...rest, fail: rest.outage === "" && fail.length === 0 ? params.getAll("down") : fail };
  return atMs === null || (outage.outage === "" && outage.fail.length === 0) ? null : { ...outage, atMs };
}

function numberIn(params: URLSearchParams, key: string): number | null {
  const text = params.get(key)?.trim() ?? "";
  return text !== "" && Number.isFinite(Number(text)) ? Number(text) : null;
}
