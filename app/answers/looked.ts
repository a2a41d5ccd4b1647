/** A moment of an outage: one that the plan has saved, or elements that fail at once and perhaps heal. */
export interface MomentAsked {
  outage: string;
  fail: string[];
  healMs: number | null;
  /** Milliseconds from the first failure. */
  atMs: number;
}

/** Under what the network is looked at: what is down to begin with, and how far an outage has come. */
export interface Looked {
  down: readonly string[];
  moment: MomentAsked | null;
}

/** The moment that an address names; null where it names none. */
export function momentIn(params: URLSearchParams): MomentAsked | null {
  const at = params.get("at");
  const outage = params.get("outage") ?? "";
  const fail = params.getAll("fail");
  if (at === null || at.trim() === "" || !Number.isFinite(Number(at)) || (outage === "" && fail.length === 0))
    return null;
  const heal = params.get("heal");
  const healMs = heal === null || heal.trim() === "" || !Number.isFinite(Number(heal)) ? null : Number(heal);
  return { outage, fail, healMs, atMs: Number(at) };
}
