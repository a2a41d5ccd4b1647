/** A moment as it is written for people. */
export function ClockTime({ at }: { at: Date | string }) {
  const iso = new Date(at).toISOString();
  return <time dateTime={iso}>{iso.slice(0, 16).replace("T", " ")} UTC</time>;
}
