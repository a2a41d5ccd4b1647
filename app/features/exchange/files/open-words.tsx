import { Pick } from "../../../ui/select.tsx";

const meanings = [
  { value: "", label: "not set" },
  ...["static", "connected", "local", "ospf", "bgp", "isis", "rip", "inactive", "discard"].map((value) => ({
    value,
    label: value,
  })),
];

interface OpenWordsProps {
  /** Words whose meaning is open, and on how many lines they stand. */
  open: readonly [string, number][];
  words: Readonly<Record<string, string>>;
  onWords: (words: Record<string, string>) => void;
}

/** What words and codes mean is asked once; those that were answered stay, to be changed. */
export function OpenWords({ open, words, onWords }: OpenWordsProps) {
  const counts = new Map([...Object.keys(words).map((word) => [word, 0] as const), ...open]);
  if (counts.size === 0) return null;
  return (
    <section aria-label="Unknown codes" className="mt-3 border border-rule p-2">
      <h2 className="font-semibold">Meaning of codes</h2>
      <p className="text-[13px] text-ink-2">
        Until you choose, a route with a next hop is assumed to be static, and one with only an interface to
        be connected.
      </p>
      <ul className="mt-1 flex flex-wrap gap-4">
        {[...counts].slice(0, 24).map(([word, count]) => (
          <li key={word} className="flex items-center gap-2">
            <span className="addr font-semibold">{word}</span>
            {count > 0 && (
              <span className="text-[13px] text-ink-2">
                on {count} {count === 1 ? "line" : "lines"}
              </span>
            )}
            <Pick
              aria-label={`Meaning of ${word}`}
              value={words[word] ?? ""}
              onChange={(meaning) => {
                const { [word]: _before, ...others } = words;
                onWords(meaning === "" ? others : { ...others, [word]: meaning });
              }}
              choices={meanings}
            />
          </li>
        ))}
      </ul>
    </section>
  );
}
