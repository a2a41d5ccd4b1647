import { variantsOf } from "../settle/index.ts";
import {
  type Breaking,
  type EstablishedSession,
  establishedSessions,
  type Passage,
  passIn,
  type Question,
  type Trip,
  type World,
  without,
} from "../walk/index.ts";
import type { Simulation } from "./simulate.ts";

/** Idle timeout of a session if the flow states none; only TCP has one. */
const TCP_TIMEOUT_MS = 60_000;

function sessionTimeoutOf({ protocol, sessionTimeoutMs }: Question): number {
  return sessionTimeoutMs ?? (protocol === "tcp" ? TCP_TIMEOUT_MS : Number.POSITIVE_INFINITY);
}

/** The result for sessions established before an outage, judged at every moment of every run (rule 18): a session
 * breaks if its receiver sees another source, or if packets are lost for longer than its timeout. Null if it survives;
 * uncertain if runs differ. `before` is the flow's trip; `keyOf` identifies worlds. */
export function breakingInTime(
  before: Trip,
  question: Question,
  runs: readonly Simulation[],
  keyOf: (world: World) => string,
): Breaking | null {
  const passages = new Passages(keyOf);
  const settling = runs.filter(({ flapping }) => !flapping);
  const [first] = settling;
  const sessions = first ? establishedSessions(before, question, first.moments[0].world) : [];
  const fates = settling.map((run) => {
    for (const session of sessions) {
      const breaking = fateIn(run, session, sessionTimeoutOf(question), passages);
      if (breaking) return breaking;
    }
    return null;
  });
  const broken = fates.find((fate) => fate !== null) ?? null;
  if (!broken || fates.every((fate) => fate !== null && !fate.uncertain)) return broken;
  return { ...broken, uncertain: true };
}

interface Stall {
  readonly sinceMs: number;
  readonly breaking: Breaking;
}

function fateIn(
  { moments }: Simulation,
  begun: EstablishedSession,
  timeoutMs: number,
  passages: Passages,
): Breaking | null {
  let session = begun;
  /** Since when nothing passes, and why; null while it does. */
  let stalled: Stall | null = null;
  for (const [n, { atMs, world }] of moments.entries()) {
    if (n === 0) continue;
    const passage = passages.in(world, session);
    session = passage.session;
    if (passage.breaking?.kind === "source") return passage.breaking;
    if (!passage.breaking) {
      stalled = null;
      continue;
    }
    stalled = { sinceMs: (stalled as Stall | null)?.sinceMs ?? atMs, breaking: passage.breaking };
    const forMs = (moments[n + 1]?.atMs ?? Number.POSITIVE_INFINITY) - stalled.sinceMs;
    if (forMs === Number.POSITIVE_INFINITY) return stalled.breaking;
    if (forMs > timeoutMs) return { kind: "stalled", forMs, timeoutMs };
  }
  return null;
}

/** The result for established sessions in each world; runs share worlds, identified by their keys. */
class Passages {
  private readonly known = new Map<EstablishedSession, Map<string, Passage>>();

  constructor(private readonly keyOf: (world: World) => string) {}

  in(world: World, session: EstablishedSession): Passage {
    const of = this.known.get(session) ?? new Map<string, Passage>();
    this.known.set(session, of);
    const key = this.keyOf(world);
    const passage = of.get(key) ?? passAll(world, without(world, session));
    of.set(key, passage);
    return passage;
  }
}

/** Where it is not known which of a pair packets come to: in each world that may be. */
function passAll(world: World, session: EstablishedSession): Passage {
  let at = session;
  for (const one of variantsOf(world)) {
    const passage = passIn(one, at);
    if (passage.breaking) return passage;
    at = passage.session;
  }
  return { breaking: null, session: at };
}
