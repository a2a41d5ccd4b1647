import { useEffect, useRef, useState } from "react";
import { Link, useFetcher } from "react-router";
import type { Layout, TokenRole } from "../../../../exchange/layout.ts";
import { useEditing } from "../../../plan/editing.ts";
import { NoFlows } from "../../../plan/flows/no-flows.tsx";
import { FormWarnings } from "../../../plan/forms/form-warnings.tsx";
import { usePlan } from "../../../plan/open-plan.tsx";
import { Refusals } from "../../../plan/refusals.tsx";
import { useRights } from "../../../plan/rights.tsx";
import type { ExchangeAnswer } from "../../../queries/exchange.ts";
import { pageHref } from "../../../search/links.ts";
import { Button } from "../../../ui/button.tsx";
import { TabSet } from "../../../ui/tabs.tsx";
import { ArchiveImport } from "./archive-import.tsx";
import { ColumnQuestions } from "./column-questions.tsx";
import { DropArea, type SourceFile } from "./drop-area.tsx";
import { FateLines } from "./fate-lines.tsx";
import { OpenWords } from "./open-words.tsx";
import { ReadDevices, ReadLinks } from "./read-parts.tsx";
import { type LayoutView, SavedLayouts } from "./saved-layouts.tsx";
import { TablesRead } from "./tables-read.tsx";
import { useReading } from "./use-reading.ts";

/** Import of device output: files are read line by line, shown with their meaning, and imported as one edit. */
export function FilesView({ layouts }: { layouts: readonly LayoutView[] }) {
  const { page, planId, params, frame } = usePlan();
  const editing = useEditing(page, "exchange");
  const [files, setFiles] = useState<SourceFile[]>([]);
  const [archive, setArchive] = useState<File | null>(null);
  const [words, setWords] = useState<Readonly<Record<string, string>>>({});
  const [without, setWithout] = useState<readonly string[]>([]);
  const [taught, setTaught] = useState<Layout["shapes"]>({});
  const [answers, setAnswers] = useState<Readonly<Record<string, TokenRole>>>({});
  const [tab, setTab] = useState("lines");
  const { reading, answer } = useReading({ files, words, without, taught, layouts, answers });
  const { edits } = useRights();
  const sent = useRef(false);
  const [taken, setTaken] = useState("");
  const { busy, saved } = editing;
  useEffect(() => {
    if (!sent.current || busy) return;
    sent.current = false;
    if (saved === null) return;
    setTaken(`Imported as revision ${saved}.`);
    setFiles([]);
    setWithout([]);
  }, [busy, saved]);
  const keeper = useFetcher<{ kept: number; error: string }>({ key: "readings" });
  const keep = ({ facts }: ExchangeAnswer) =>
    void keeper.submit({ facts } as never, {
      method: "post",
      action: `/plans/${planId}/readings`,
      encType: "application/json",
    });
  const toggle = (ref: string) =>
    setWithout((now) => (now.includes(ref) ? now.filter((one) => one !== ref) : [...now, ref]));
  return (
    <div className="mt-2 flex flex-1 flex-col">
      <DropArea
        files={files}
        onFiles={(next) => {
          setTaken("");
          setFiles(next);
          if (next.length === 0) setArchive(null);
        }}
        onArchive={setArchive}
      />
      {edits && archive && <ArchiveImport archive={archive} previewed={files.length > 0} />}
      {taken !== "" && (
        <p role="status" className="mt-2 font-medium">
          {taken} Undo reverts the import.{" "}
          <Link className="name-link" to={pageHref(planId, "map", params)}>
            Show on map
          </Link>
        </p>
      )}
      {taken !== "" && frame.flows.length === 0 && <NoFlows />}
      {reading.isError && files.length > 0 && (
        <p role="alert" className="mt-2 text-stop">
          {reading.error.message}
        </p>
      )}
      {files.length > 0 && answer === null && !reading.isError && (
        <p role="status" className="mt-2 text-ink-2">
          Reading {files.length} {files.length === 1 ? "file" : "files"} …
        </p>
      )}
      {keeper.data && (
        <p role="status" className="mt-2 text-ink-2">
          {keeper.data.error ||
            `Readings of ${keeper.data.kept} ${keeper.data.kept === 1 ? "device" : "devices"} saved.`}
        </p>
      )}
      {answer && (
        <>
          <Take
            answer={answer}
            busy={busy || reading.isPending}
            onTake={() => {
              if (!answer.edit) return;
              sent.current = true;
              keep(answer);
              editing.save(answer.edit);
            }}
            onKeep={() => keep(answer)}
          />
          <Refusals errors={[...answer.errors, ...editing.errors]} className="mt-2" />
          <FormWarnings edit={answer.edit} />
          <ColumnQuestions questions={answer.questions} answers={answers} onAnswers={setAnswers} />
          <OpenWords open={answer.openWords} words={words} onWords={setWords} />
          <div className="mt-3 flex min-h-[320px] flex-1 flex-col">
            <TabSet
              label="Result"
              value={tab}
              onChange={setTab}
              tabs={[
                {
                  value: "lines",
                  text: `Lines ${answer.lines.length}`,
                  body: <FateLines lines={answer.lines} />,
                },
                {
                  value: "tables",
                  text: `Tables ${answer.tables.length}`,
                  body: (
                    <TablesRead tables={answer.tables} words={words} taught={taught} onTaught={setTaught} />
                  ),
                },
                {
                  value: "devices",
                  text: `Devices ${answer.devices.length}`,
                  body: <ReadDevices devices={answer.devices} without={without} onToggle={toggle} />,
                },
                {
                  value: "links",
                  text: `Links ${answer.links.length}`,
                  body: <ReadLinks links={answer.links} without={without} onToggle={toggle} />,
                },
              ]}
            />
          </div>
        </>
      )}
      <SavedLayouts layouts={layouts} />
    </div>
  );
}

const counted = (n: number, one: string) => `${n} ${one}${n === 1 ? "" : "s"}`;

/** What the edit comes to, and the button that takes it. */
interface TakeProps {
  answer: ExchangeAnswer;
  busy: boolean;
  onTake: () => void;
  onKeep: () => void;
}

function Take({ answer, busy, onTake, onKeep }: TakeProps) {
  const { devices, links, edit, lines } = answer;
  const { edits } = useRights();
  const outlined = devices.filter(({ outline }) => outline).length;
  const fresh = devices.filter(({ known, outline }) => !known && !outline).length;
  const count = (fate: string) => lines.filter((line) => line.fate === fate).length;
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3">
      {edits ? (
        <>
          <Button look="strong" disabled={busy || !edit} onClick={onTake}>
            Import into plan
          </Button>
          <Button disabled={busy || answer.facts.length === 0} onClick={onKeep}>
            Save readings only
          </Button>
        </>
      ) : (
        <span className="text-ink-2">You do not have permission to edit this plan.</span>
      )}
      <p data-testid="read-summary">
        {counted(devices.length - outlined, "device")} ({fresh} new), {outlined} outlined,{" "}
        {counted(links.length, "link")}. Of {counted(lines.length, "line")}: {count("taken")} read,{" "}
        {count("doubtful")} assumed, {count("known")} ignored, {count("not-understood")} not understood.
        {edit ? ` ${counted(edit.changes.length, "change")}.` : " No changes to the plan."}
      </p>
    </div>
  );
}
