import { usePlan } from "../../plan/open-plan.tsx";
import { Shield } from "../../ui/shield.tsx";

/** A gateway by its shield and name. */
export function Carrier({ id }: { id: string }) {
  const { frame } = usePlan();
  const g = frame.gateways.findIndex((gateway) => gateway.id === id);
  return (
    <span className="inline-flex items-center gap-1">
      {g >= 0 && <Shield gateway={g} label={frame.gateways[g].label} size={18} />}
      {frame.gateways[g]?.label ?? id}
    </span>
  );
}
