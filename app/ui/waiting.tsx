/** In the place of an answer that is still to come, or that could not be had. */
export function Waiting({ text, error, retry }: { text: string; error: string; retry: () => void }) {
  if (error === "") return <p className="text-ink-2">{text}</p>;
  return (
    <p role="alert" className="text-stop">
      No answer: {error}.{" "}
      <button type="button" className="button text-ink" onClick={retry}>
        Try again
      </button>
    </p>
  );
}
