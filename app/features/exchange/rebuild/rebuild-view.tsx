import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { askPlan } from "../../../engine/ask.client.ts";
import { usePlan } from "../../../plan/open-plan.tsx";
import { Button } from "../../../ui/button.tsx";
import { OpenWords } from "../files/open-words.tsx";
import type { LayoutView } from "../files/saved-layouts.tsx";
import { GrowingPicture } from "./growing-picture.tsx";
import { PictureLines } from "./picture-lines.tsx";

/** The table of a lone router as a first example. */
const example = ` kind   network          towards        port    cost
 O      203.0.113.0/30   -              up         0
 O      10.55.0.0/24     -              lan        0
 H      0.0.0.0/0        203.0.113.1    up         5
 H      10.60.0.0/16     10.55.0.2      lan       10
                         203.0.113.1    up        20
 H      10.61.0.0/16     10.55.0.2      lan       10
 H      10.48.0.0/12     discard
`;

/** A network is rebuilt from one table: its lines left, the drawing right, growing line by line. */
export function RebuildView({ layouts }: { layouts: readonly LayoutView[] }) {
  const { page } = usePlan();
  const [draft, setDraft] = useState("");
  const [text, setText] = useState("");
  const [words, setWords] = useState<Readonly<Record<string, string>>>({});
  const [at, setAt] = useState(0);
  const [hidden, setHidden] = useState(false);
  const { mutate, reset, data, error, isPending } = useMutation({
    mutationFn: (asked: { text: string; words: [string, string][] }) =>
      askPlan(page, "picture", { ...asked, layouts: layouts.map(({ layout }) => layout) }, "picture"),
  });
  useEffect(() => {
    if (text === "") reset();
    else mutate({ text, words: Object.entries(words) });
  }, [text, words, mutate, reset]);
  const begin = (next: string) => {
    setAt(0);
    setText(next);
  };
  const picture = text === "" ? null : (data?.picture ?? null);
  if (text === "") {
    return (
      <form
        className="mt-3 flex max-w-3xl flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          begin(draft);
        }}
      >
        <p className="text-ink-2">
          Paste the route table of one device. The topology is drawn line by line, so you see the line that
          each part comes from.
        </p>
        <label className="flex flex-col text-[13px] text-ink-2">
          Route table
          <textarea
            rows={12}
            value={draft}
            onChange={(event) => setDraft(event.target.value)}
            className="field addr"
            spellCheck={false}
          />
        </label>
        <div className="flex gap-2">
          <Button type="submit" look="strong" disabled={draft.trim() === ""}>
            Draw topology
          </Button>
          <Button onClick={() => setDraft(example)}>Insert example</Button>
        </div>
      </form>
    );
  }
  return (
    <div className="mt-2 flex min-h-0 flex-1 flex-col gap-2">
      <div className="flex flex-wrap items-center gap-3">
        <Button onClick={() => begin("")}>New table</Button>
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={hidden} onChange={() => setHidden(!hidden)} /> Quiz: guess what each
          line adds
        </label>
        <span className="text-ink-2">
          Use the arrow keys, Home and End to move between lines. Click a part to show its line.
        </span>
      </div>
      {data && <OpenWords open={data.openWords} words={words} onWords={setWords} />}
      {error && (
        <p role="alert" className="text-stop">
          {error.message}
        </p>
      )}
      {data && !picture && <p role="alert">Nothing was understood: the text contains no address.</p>}
      {isPending && !picture && <p role="status">Reading …</p>}
      {picture && (
        <div className="grid min-h-0 flex-1 gap-3 lg:grid-cols-[minmax(0,5fr)_minmax(0,7fr)]">
          <PictureLines picture={picture} at={at} onAt={setAt} hidden={hidden} />
          <GrowingPicture picture={picture} at={at} onAt={setAt} />
        </div>
      )}
    </div>
  );
}
