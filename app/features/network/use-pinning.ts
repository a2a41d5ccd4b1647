import { useQueryClient } from "@tanstack/react-query";
import { type Edit, type Plan, settingsOf } from "../../../core/plan/index.ts";
import type { Point } from "../../drawing/types.ts";
import { fetchDocument } from "../../plan/document.ts";
import { useEditing } from "../../plan/editing.ts";
import { usePlan } from "../../plan/open-plan.tsx";

/** Pins a device's plate at a place of the drawing. */
export function usePinning(): (id: string, at: Point) => void {
  const { page } = usePlan();
  const cache = useQueryClient();
  const { save } = useEditing(page);
  return (id, at) => {
    fetchDocument(cache, page).then((plan) => {
      const edit = pinEdit(plan, id, at);
      if (edit) save(edit);
    });
  };
}

/** The edit that pins a device's plate at a place. */
function pinEdit(plan: Plan, id: string, at: Point): Edit | null {
  const device = plan.devices.find((entry) => entry.id === id);
  if (!device) return null;
  const before = settingsOf(device);
  const after = { ...before, place: { x: Math.round(at.x), y: Math.round(at.y) } };
  const label = `Pin ${device.label ?? id} on the map`;
  return { label, changes: [{ in: "device-settings", device: id, before, after }] };
}
