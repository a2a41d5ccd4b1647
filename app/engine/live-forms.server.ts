import { z } from "zod";
import { formatAddress, parseAddress } from "../../core/address/index.ts";
import { readAllowed, secretSchema, usualPort, waySchema } from "../../live/target.ts";
import { auditDetail } from "../../server/access/audit.ts";
import type { AdministeredPlan, EditablePlan } from "../../server/access/grants.ts";
import { permit } from "../../server/access/permit.ts";
import { askReadings, cancelRun } from "../../server/live/runs.ts";
import { NoKey } from "../../server/live/seal.ts";
import {
  confirmProof,
  dropTarget,
  type FieldErrors,
  forgetCredential,
  forgetProof,
  keepCredential,
  keepTarget,
  type NewTarget,
  targetFaults,
} from "../../server/live/targets.ts";
import { headOf } from "../../server/plans.ts";
import { parseDuration } from "../plan/forms/durations.ts";
import { rowField, textField } from "./bodies.server.ts";
import { documentAt } from "./documents.server.ts";
import { notFound } from "./page.server.ts";

/** The result of a device form: a confirmation, or errors by field. */
export interface FormNotice {
  readonly form: string;
  readonly errors: FieldErrors;
  readonly said: string;
}

const targetSchema = z.object({
  device: z.string().trim().min(1, "Enter the device.").max(200),
  address: z
    .string()
    .trim()
    .refine((text) => parseAddress(text) !== null, "Enter an IPv4 or IPv6 address.")
    .transform((text) => formatAddress(parseAddress(text) as NonNullable<ReturnType<typeof parseAddress>>)),
  way: waySchema,
  port: z.coerce
    .number("Enter a port from 1 to 65535.")
    .int("Enter a port from 1 to 65535.")
    .min(1, "Enter a port from 1 to 65535.")
    .max(65535, "Enter a port from 1 to 65535."),
  credential: rowField.or(z.literal("").transform(() => "0")),
  everyMinutes: z
    .string()
    .transform((text) => (text.trim() === "" ? null : (parseDuration(text) ?? Number.NaN) / 60_000))
    .refine(
      (value) => value === null || (Number.isInteger(value) && value >= 1 && value <= 44_640),
      "Enter whole minutes up to 744 hours, such as 5 min or 1 h, or leave the field empty.",
    ),
});

/** The forms of the polling page. Errors in a credential or a device are shown beside their field. */
export const liveFormSchema = z.discriminatedUnion("do", [
  z.looseObject({ do: z.literal("credential"), name: textField, prefixes: textField }),
  z.object({ do: z.literal("forget-credential"), credential: rowField }),
  z.object({
    do: z.literal("target"),
    device: textField,
    address: textField,
    way: textField,
    port: textField,
    everyMinutes: textField,
    credential: textField,
  }),
  z.object({
    do: z.literal("test"),
    device: textField,
    address: textField,
    way: textField,
    port: textField,
    everyMinutes: textField,
    credential: textField,
  }),
  z.object({
    do: z.literal("targets"),
    list: textField,
    way: textField,
    everyMinutes: textField,
    credential: textField,
  }),
  z.object({ do: z.literal("drop-target"), target: rowField }),
  z.object({ do: z.literal("forget-proof"), target: rowField }),
  z.object({ do: z.literal("confirm-proof"), target: rowField, key: z.string().max(200) }),
  z.object({ do: z.literal("read"), target: rowField.optional() }),
  z.object({ do: z.literal("cancel"), run: rowField }),
]);
type LiveForm = z.output<typeof liveFormSchema>;

/** Does what a form of the devices' page says. */
export async function doOnDevices(
  request: Request,
  plan: EditablePlan,
  form: LiveForm,
  by: string,
): Promise<FormNotice> {
  if (!(await headOf(plan))) notFound("There is no such plan; it may have been deleted.");
  try {
    const [errors, said] = await act(form, plan, by, () => permit(request, plan, "administers"));
    return { form: form.do, errors, said: Object.keys(errors).length > 0 ? "" : said };
  } catch (error) {
    if (error instanceof NoKey) return { form: form.do, errors: { key: error.message }, said: "" };
    throw error;
  }
}

/** `administered`: the plan for an administrator; anybody else gets 403. */
async function act(
  form: LiveForm,
  plan: EditablePlan,
  by: string,
  administered: () => AdministeredPlan,
): Promise<[FieldErrors, string]> {
  switch (form.do) {
    case "credential":
      return saveCredential(form, administered(), by);
    case "forget-credential":
      return [await forgetCredential(administered(), form.credential), "Credential removed."];
    case "target":
      return saveTarget(form, plan);
    case "test":
      return testTarget(form, plan, by);
    case "targets":
      return saveTargets(form, plan);
    case "drop-target":
      await dropTarget(plan, form.target);
      return [{}, "Device removed from polling. Its readings are kept."];
    case "forget-proof":
      await forgetProof(administered(), form.target);
      return [{}, "Key removed. The next key that the device shows has to be confirmed."];
    case "confirm-proof":
      if (!(await confirmProof(administered(), form.target, form.key)))
        return [{ key: "The device has since shown another key. Compare the new one." }, ""];
      await askReadings(plan, [form.target], by);
      return [{}, "Key confirmed. The device is being polled."];
    case "read": {
      const count = await askReadings(plan, form.target ? [form.target] : null, by);
      return [
        {},
        count === 0 ? "Polling already." : count === 1 ? "Polling 1 device." : `Polling ${count} devices.`,
      ];
    }
    case "cancel":
      await cancelRun(plan, form.run);
      return [{}, "Cancelled."];
  }
}

async function saveCredential(
  { do: _do, name: typed, prefixes: list, ...fields }: Extract<LiveForm, { do: "credential" }>,
  plan: AdministeredPlan,
  by: string,
): Promise<[FieldErrors, string]> {
  const name = typed.trim();
  if (name === "" || name.length > 100) return [{ name: "Enter a name of at most 100 characters." }, ""];
  auditDetail({ name });
  const prefixes = readAllowed(list);
  if (!prefixes || prefixes.length === 0)
    return [{ prefixes: "Enter the prefixes of the devices that may receive it, such as 10.0.0.0/8." }, ""];
  const secret = secretSchema.safeParse(fields);
  if (!secret.success) return [errorsIn(secret.error), ""];
  if ("key" in secret.data && secret.data.key === "" && secret.data.password === "")
    return [{ password: "Enter a password or a private key." }, ""];
  return [
    await keepCredential(plan, name, secret.data, prefixes, by),
    `${name} is saved in encrypted form. It will not be shown again.`,
  ];
}

type TargetForm = Extract<LiveForm, { do: "target" | "test" }>;

function targetIn(form: Omit<TargetForm, "do">) {
  const way = waySchema.safeParse(form.way);
  const usual = way.success ? String(usualPort[way.data]) : "";
  return targetSchema.safeParse({ ...form, port: form.port.trim() || usual });
}

async function saveTarget(form: TargetForm, plan: EditablePlan): Promise<[FieldErrors, string]> {
  const read = targetIn(form);
  if (!read.success) return [errorsIn(read.error), ""];
  auditDetail({ device: read.data.device, address: read.data.address });
  const kept = await keepTarget(plan, read.data);
  return "errors" in kept
    ? [kept.errors, ""]
    : [{}, `${read.data.device} is polled at ${read.data.address}.`];
}

/** Polls a device once before it is saved; its readings are not saved. */
async function testTarget(form: TargetForm, plan: EditablePlan, by: string): Promise<[FieldErrors, string]> {
  const read = targetIn(form);
  if (!read.success) return [errorsIn(read.error), ""];
  auditDetail({ device: read.data.device, address: read.data.address });
  const kept = await keepTarget(plan, read.data, true);
  if ("errors" in kept) return [kept.errors, ""];
  await askReadings(plan, [kept.id], by);
  return [{}, `Testing ${read.data.device} at ${read.data.address}.`];
}

/** Devices that are added from one list. */
const MAX_LIST = 500;

/** Adds the devices of a pasted list, all with the same credentials; none if a line has an error. */
async function saveTargets(
  { list, ...rest }: Extract<LiveForm, { do: "targets" }>,
  plan: EditablePlan,
): Promise<[FieldErrors, string]> {
  const lines = list
    .split("\n")
    .flatMap((line, n) => (line.trim() === "" ? [] : [{ n: n + 1, text: line.trim() }]));
  if (lines.length === 0) return [{ list: "Enter at least one address." }, ""];
  if (lines.length > MAX_LIST) return [{ list: `Enter at most ${MAX_LIST} lines at once.` }, ""];
  const owners = await ownersIn(plan);
  const targets: NewTarget[] = [];
  for (const { n, text } of lines) {
    const words = text.split(/[\s,;]+/);
    const address = words.find((word) => parseAddress(word) !== null) ?? "";
    const device = words.find((word) => word !== address) ?? owners.get(canonical(address)) ?? address;
    const read = targetIn({ ...rest, device, address, port: "" });
    const faults = read.success ? await targetFaults(plan, read.data) : errorsIn(read.error);
    const [[field, fault] = []] = Object.entries(faults);
    if (field === "everyMinutes" || field === "credential") return [{ [field]: fault ?? "" }, ""];
    if (!read.success || fault !== undefined)
      return [{ list: `Line ${n}: ${fault ?? "not understood"}` }, ""];
    targets.push(read.data);
  }
  for (const target of targets) await keepTarget(plan, target);
  auditDetail({ count: targets.length });
  return [{}, `${targets.length} ${targets.length === 1 ? "device" : "devices"} added.`];
}

const canonical = (text: string) => {
  const address = parseAddress(text);
  return address ? formatAddress(address) : text;
};

/** The devices of the plan by their addresses. */
async function ownersIn(plan: EditablePlan): Promise<Map<string, string>> {
  const head = await headOf(plan);
  const document = head && (await documentAt(plan, head.revision));
  const owners = new Map<string, string>();
  for (const device of document?.devices ?? [])
    for (const port of device.interfaces)
      for (const text of port.addresses) owners.set(canonical(text.slice(0, text.indexOf("/"))), device.id);
  return owners;
}

/** The first error of each field; never contains the entered value. */
function errorsIn({ issues }: z.ZodError): FieldErrors {
  return Object.fromEntries(
    issues.toReversed().map(({ path, message }) => [String(path[0] ?? "do"), message]),
  );
}
