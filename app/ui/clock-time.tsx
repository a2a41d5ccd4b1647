/** A moment as text for people. */
export const clockText = (at: Date | string) =>
  `${new Date(at).toISOString().slice(0, 16).replace("T", " ")} UTC`;

/** The same, with a machine-readable value. */
export function ClockTime({ at }: { at: Date | string }) {
  return <time dateTime={new Date(at).toISOString()}>{clockText(at)}</time>;
}
