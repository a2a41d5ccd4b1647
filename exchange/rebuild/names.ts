import { freeName, idOf as idFrom } from "../../core/plan/index.ts";

/** A device's id in the plan's form; "device" where its name has neither letter nor digit. */
export function idOf(name: string): string {
  return idFrom(name) || "device";
}

/** The first of "name", "name-2", "name-3" … that is not taken; it is taken from then on. */
export function takeName(wanted: string, taken: Set<string>): string {
  const name = freeName(wanted, (one) => taken.has(one));
  taken.add(name);
  return name;
}

/** An interface's name in the plan's form. */
export function interfaceNameOf(name: string): string {
  return (
    name
      .replace(/[^A-Za-z0-9._:/-]/g, "-")
      .replace(/^[^A-Za-z0-9]+/, "")
      .slice(0, 63) || "unnamed"
  );
}
