/** The fields of a route, beside the line: each says what it takes, and what is wrong stands under it. */
export const routeFields = [
  { name: "to", label: "Destination", hint: "prefix, default", width: "w-36", mono: true },
  { name: "via", label: "Next hop", hint: "address", width: "w-32", mono: true },
  { name: "out", label: "Out", hint: "its name", width: "w-20", mono: true },
  { name: "distance", label: "Distance", hint: "1 to 255", width: "w-16", mono: false },
  { name: "metric", label: "Metric", hint: "0 …", width: "w-14", mono: false },
  { name: "watch", label: "While watch is up", hint: "its id", width: "w-24", mono: true },
  { name: "vrf", label: "VRF", hint: "main", width: "w-14", mono: true },
  { name: "note", label: "Note", hint: "text", width: "w-16", mono: false },
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
            placeholder={name === "distance" ? String(staticDistance ?? "none here") : hint}
            aria-invalid={errors[name] ? true : undefined}
            aria-describedby={errors[name] ? `route-${name}-error` : undefined}
            autoComplete="off"
            spellCheck={false}
            className={`field ${mono ? "addr" : ""} ${width}`}
          />
          <FieldError id={`route-${name}-error`} text={errors[name]} />
        </div>
      ))}
      <div className="flex flex-col">
        <label htmlFor="route-discard" className="text-[13px] text-ink-2">
          Discard
        </label>
        <select
          id="route-discard"
          value={values.discard ?? ""}
          onChange={(event) => onChange("discard", event.target.value)}
          className="field h-[28px]"
        >
          <option value="">no</option>
          <option value="drop">drop</option>
          <option value="reject">reject</option>
        </select>
      </div>
    </div>
  );
}

export function FieldError({ id, text }: { id: string; text: string | undefined }) {
  if (!text) return null;
  return (
    <p id={id} role="alert" className="max-w-56 text-[13px] text-stop leading-[17px]">
      {text}
    </p>
  );
}
