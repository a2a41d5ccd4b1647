import type { PlanError } from "../../core/plan/index.ts";

/** Why an edit was refused, in its sentences; nothing where it was not. */
export function Refusals({ errors, className = "" }: { errors: readonly PlanError[]; className?: string }) {
  if (errors.length === 0) return null;
  return (
    <p role="alert" className={`text-stop ${className}`}>
      {errors.map((error) => error.message).join("; ")}
    </p>
  );
}
