import type { Plan } from "../../core/plan/index.ts";
import { csvFiles } from "./csv.ts";
import { ietfJsonFiles, ietfXmlFiles } from "./ietf.ts";
import { iproute2Files } from "./iproute2.ts";
import type { OutputFile } from "./output-file.ts";
import { topologyFiles } from "./topology.ts";

/** The forms that a plan is written in, by the name that the command line takes. */
export const formats = {
  "ietf-json": ietfJsonFiles,
  "ietf-xml": ietfXmlFiles,
  iproute2: iproute2Files,
  csv: csvFiles,
  topology: topologyFiles,
} as const;

/** Writes a plan, or one of its devices, in a form. Outlined devices are never written. */
export function writeFiles(plan: Plan, as: keyof typeof formats, device: string | null): OutputFile[] {
  const devices = plan.devices.filter(({ id, outline }) => !outline && (device === null || id === device));
  return formats[as](plan, devices);
}
