import type { Rendered, TextedStep } from "../../../exchange/texts/index.ts";

export const forms = [
  { form: "sentence", text: "Plain text" },
  { form: "own", text: "Templates" },
  { form: "json", text: "RESTCONF, JSON" },
  { form: "xml", text: "NETCONF, XML" },
  { form: "iproute2", text: "iproute2" },
] as const;

/** The forms in which a runbook's steps are shown. */
export type Form = (typeof forms)[number]["form"];

interface StepTextProps {
  step: TextedStep;
  form: Form;
  back: boolean;
  own: { do: Rendered; undo: Rendered } | undefined;
}

/** A device's configuration in the chosen form. */
export function StepText({ step, form, back, own }: StepTextProps) {
  if (form === "sentence") return null;
  if (form === "own") return <OwnText rendered={back ? own?.undo : own?.do} />;
  const { text, unsaid } = (back ? step.undoTexts : step.texts)[form];
  return (
    <div className="ml-7">
      {text && <Block text={text} />}
      {!text && unsaid.length === 0 && <p className="text-[13px] text-ink-2">No command is needed.</p>}
      {unsaid.length > 0 && (
        <p className="text-[13px] text-warn">
          This format cannot express {unsaid.join(", ")}
          {text ? ": enter it by hand." : "."}
        </p>
      )}
    </div>
  );
}

function OwnText({ rendered }: { rendered: Rendered | undefined }) {
  if (!rendered) return <p className="ml-7 text-[13px] text-ink-2">No template for this device's profile.</p>;
  if (rendered.ok) return <Block text={rendered.text} className="ml-7" />;
  return (
    <p className="ml-7 text-[13px] text-stop">
      The template failed{rendered.line ? ` in line ${rendered.line}` : ""}: {rendered.error}.
    </p>
  );
}

function Block({ text, className = "" }: { text: string; className?: string }) {
  return (
    <pre
      // biome-ignore lint/a11y/noNoninteractiveTabindex: long lines are scrolled by keyboard too.
      tabIndex={0}
      className={`mt-1 overflow-x-auto bg-sunk p-2 font-addr text-[12px] leading-[17px] ${className}`}
    >
      {text}
    </pre>
  );
}
