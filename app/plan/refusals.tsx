import type { PlanError } from "../../core/plan/index.ts";
import { Coded } from "../ui/coded.tsx";

/** Why an edit was refused, in its sentences; nothing where it was not. */
export function Refusals({ errors, className = "" }: { errors: readonly PlanError[]; className?: string }) {
  if (errors.length === 0) return null;
  return (
    <p role="alert" className={`text-stop ${className}`}>
      <Coded text={errors.map((error) => error.message).join("; ")} />
    </p>
  );
}
