import type { TokenRole } from "../../layout.ts";

/** A number of a slot, with the route that it belongs to. */
export interface SlotNumber {
  readonly value: number;
  /** The source of its route, or the code that is read for it. */
  readonly source: string;
  /** Whether that is a protocol that learns routes. */
  readonly isLearned: boolean;
}

const MAX_DISTANCE = 255;

/**
 * The role of the numbers of one slot, by the text alone: numbers that count the lines say nothing; one above 255 is a
 * metric; a distance is the same for all routes of a source and differs between sources, a metric differs within a
 * learned source. Null if the text does not decide.
 */
export function roleOfNumbers(numbers: readonly SlotNumber[]): TokenRole | null {
  const values = numbers.map(({ value }) => value);
  if (values.length >= 3 && values[0] <= 1 && values.every((value, i) => value === values[0] + i))
    return "ignored";
  if (values.some((value) => value > MAX_DISTANCE)) return "metric";
  const bySource = new Map<string, Set<number>>();
  for (const { source, value } of numbers) {
    const known = bySource.get(source) ?? new Set();
    bySource.set(source, known.add(value));
  }
  const learned = new Set(numbers.filter(({ isLearned }) => isLearned).map(({ source }) => source));
  if ([...learned].some((source) => (bySource.get(source) as Set<number>).size > 1)) return "metric";
  const count = (source: string) => numbers.filter((number) => number.source === source).length;
  const constant = [...bySource].every(([, own]) => own.size === 1);
  const distinct = new Set([...bySource].map(([, own]) => [...own][0]));
  const repeated = [...bySource.keys()].some((source) => count(source) > 1);
  if (constant && bySource.size > 1 && distinct.size === bySource.size && repeated) return "distance";
  // Learned routes of one constant above zero, beside static ones with others.
  if (
    learned.size > 0 &&
    [...learned].some(
      (source) => count(source) > 1 && Math.max(...(bySource.get(source) as Set<number>)) >= 20,
    )
  )
    return "distance";
  return null;
}

/** A question about a number column. */
export interface Question {
  readonly file: string;
  /** The heading of the column, or the position of its token in the line, from 1. */
  readonly column: string;
  readonly lines: readonly number[];
  /** The possible roles, each with the first line's route as it would be read. */
  readonly candidates: readonly {
    readonly role: TokenRole;
    readonly to: string;
    readonly via: string | null;
    readonly distance: number | null;
    readonly metric: number | null;
  }[];
}
