import { usePlan } from "./open-plan.tsx";

/** In a form that asks by an address: what the address says already, but for the fields of the form itself. */
export function HiddenParams({ but }: { but: readonly string[] }) {
  const { params } = usePlan();
  return [...params].map(
    ([key, value]) =>
      !but.includes(key) && <input key={`${key} ${value}`} type="hidden" name={key} value={value} />,
  );
}
