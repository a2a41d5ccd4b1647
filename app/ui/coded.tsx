/** A sentence in which text between backticks, such as a key of the plan document, is set as code. */
export function Coded({ text }: { text: string }) {
  return text.split(/`([^`]+)`/).map((part, n) =>
    n % 2 === 1 ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: the parts of one sentence, in their order.
      <code key={n} className="addr">
        {part}
      </code>
    ) : (
      part
    ),
  );
}
