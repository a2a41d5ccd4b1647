import { Coded } from "../../ui/coded.tsx";
import { Pick } from "../../ui/select.tsx";

/** The fields of a route: each with a hint, and its error below. */
const routeFields = [
  { name: "to", label: "Destination", hint: "prefix or default", width: "w-36", mono: true },
  { name: "via", label: "Next hop", hint: "address", width: "w-32", mono: true },
  { name: "out", label: "Interface", hint: "name", width: "w-20", mono: true },
  { name: "distance", label: "Distance", hint: "1 to 255", width: "w-16", mono: false },
  { name: "metric", label: "Metric", hint: "0 …", width: "w-14", mono: false },
  { name: "watch", label: "Only while watch is up", hint: "id", width: "w-24", mono: true },
  { name: "vrf", label: "VRF", hint: "main", width: "w-14", mono: true },
  { name: "viaFrom", label: "Next hop assigned on", hint: "interface", width: "w-28", mono: true },
  { name: "toVrf", label: "Look up in VRF", hint: "name", width: "w-20", mono: true },
  { name: "note", label: "Note", hint: "text", width: "w-32", mono: false },
] as const;

/** Fields with few values; empty means the device's default. */
const choices = [
  {
    name: "discard",
    label: "Discard",
    options: [
      ["", "no"],
      ["drop", "drop"],
      ["reject", "reject"],
    ],
  },
  {
    name: "resolve",
    label: "Resolves through",
    options: [
      ["", "profile default"],
      ["connected", "attached networks"],
      ["any", "any route"],
    ],
  },
  {
    name: "onLink",
    label: "On link",
    options: [
      ["", "by its subnet"],
      ["true", "yes"],
    ],
  },
  {
    name: "enabled",
    label: "State",
    options: [
      ["", "enabled"],
      ["false", "disabled"],
    ],
  },
] as const;

interface RouteFieldsProps {
  values: Readonly<Record<string, string>>;
  errors: Readonly<Record<string, string>>;
  staticDistance: number | null;
  onChange: (field: string, value: string) => void;
}

export function RouteFields({ values, errors, staticDistance, onChange }: RouteFieldsProps) {
  return (
    <div className="flex flex-wrap items-start gap-2">
      {routeFields.map(({ name, label, hint, width, mono }) => (
        <div key={name} className="flex flex-col">
          <label htmlFor={`route-${name}`} className="text-[13px] text-ink-2">
            {label}
          </label>
          <input
            id={`route-${name}`}
            value={values[name] ?? ""}
            onChange={(event) => onChange(name, event.target.value)}
            placeholder={name === "distance" ? String(staticDistance ?? "not used") : hint}
            aria-invalid={errors[name] ? true : undefined}
            aria-describedby={errors[name] ? `route-${name}-error` : undefined}
            autoComplete="off"
            spellCheck={false}
            className={`field ${mono ? "addr" : ""} ${width}`}
          />
          <FieldError id={`route-${name}-error`} text={errors[name]} />
        </div>
      ))}
      {choices.map(({ name, label, options }) => (
        <div key={name} className="flex flex-col">
          <label htmlFor={`route-${name}`} className="text-[13px] text-ink-2">
            {label}
          </label>
          <Pick
            id={`route-${name}`}
            value={values[name] ?? ""}
            onChange={(value) => onChange(name, value)}
            choices={options.map(([value, text]) => ({ value, label: text }))}
            aria-invalid={errors[name] ? true : undefined}
          />
          <FieldError id={`route-${name}-error`} text={errors[name]} />
        </div>
      ))}
    </div>
  );
}

function FieldError({ id, text }: { id: string; text: string | undefined }) {
  if (!text) return null;
  return (
    <p id={id} role="alert" className="max-w-56 text-[13px] text-stop leading-[17px]">
      <Coded text={text} />
    </p>
  );
}
