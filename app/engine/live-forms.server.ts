import { z } from "zod";
import { formatAddress, parseAddress } from "../../core/address/index.ts";
import { readAllowed, secretSchema, usualPort, waySchema } from "../../live/target.ts";
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
} from "../../server/live/targets.ts";
import { headOf } from "../../server/plans.ts";
import { rowNumber, textOf } from "./bodies.server.ts";
import { notFound } from "./page.server.ts";

/** What a form on the devices came to: what was done, or what is wrong at which field of it. */
export interface FormTold {
  readonly form: string;
  readonly errors: FieldErrors;
  readonly said: string;
}

const targetSchema = z.object({
  device: z.string().trim().min(1, "say which device it is").max(200),
  address: z
    .string()
    .trim()
    .refine((text) => parseAddress(text) !== null, "this is not an IPv4 or IPv6 address")
    .transform((text) => formatAddress(parseAddress(text) as NonNullable<ReturnType<typeof parseAddress>>)),
  way: waySchema,
  port: z.coerce
    .number("this is no port")
    .int("this is no port")
    .min(1, "a port is from 1 to 65535")
    .max(65535, "a port is from 1 to 65535"),
  credential: z.string(),
  everyMinutes: z
    .union([z.literal("").transform(() => null), z.coerce.number().int().min(1).max(44640)])
    .catch(() => Number.NaN)
    .refine((value) => value === null || !Number.isNaN(value), "minutes from 1 to 44640, or nothing"),
});

/** What a form is done with: the plan, who sent it, and the plan for an administrator, who else gets 403. */
interface Doing {
  readonly plan: EditablePlan;
  readonly form: FormData;
  readonly by: string;
  readonly administered: () => AdministeredPlan;
}

const doings: Readonly<Record<string, (doing: Doing) => Promise<[FieldErrors, string]>>> = {
  async credential({ form, by, administered }) {
    const plan = administered();
    const name = textOf(form, "name").trim();
    if (name === "" || name.length > 100) return [{ name: "Give it a name of at most 100 characters." }, ""];
    const prefixes = readAllowed(textOf(form, "prefixes"));
    if (!prefixes || prefixes.length === 0)
      return [{ prefixes: "Name the prefixes whose devices may get it, such as 10.0.0.0/8." }, ""];
    const {
      do: _doing,
      name: _name,
      prefixes: _prefixes,
      ...fields
    } = Object.fromEntries([...form].filter(([, value]) => typeof value === "string"));
    const secret = secretSchema.safeParse(fields);
    if (!secret.success) return [errorsIn(secret.error), ""];
    if ("key" in secret.data && secret.data.key === "" && secret.data.password === "")
      return [{ password: "Enter a password or a private key." }, ""];
    return [
      await keepCredential(plan, name, secret.data, prefixes, by),
      `${name} is saved, encrypted. It is not shown again.`,
    ];
  },
  async "forget-credential"({ form, administered }) {
    return [await forgetCredential(administered(), rowNumber(form, "credential")), "Credential removed."];
  },
  async target({ plan, form }) {
    const fields = Object.fromEntries(
      ["device", "address", "way", "port", "everyMinutes"].map((key) => [key, textOf(form, key)]),
    );
    fields.credential = rowNumber(form, "credential");
    const way = waySchema.safeParse(fields.way);
    if (fields.port.trim() === "" && way.success) fields.port = String(usualPort[way.data]);
    const read = targetSchema.safeParse(fields);
    if (!read.success) return [errorsIn(read.error), ""];
    return [await keepTarget(plan, read.data), `${read.data.device} is read at ${read.data.address}.`];
  },
  async "drop-target"({ plan, form }) {
    await dropTarget(plan, rowNumber(form, "target"));
    return [{}, "It is no longer read. What it said is kept."];
  },
  async "forget-proof"({ form, administered }) {
    await forgetProof(administered(), rowNumber(form, "target"));
    return [{}, "Key removed. The next key that the device shows has to be confirmed."];
  },
  async "confirm-proof"({ plan, form, by, administered }) {
    const target = rowNumber(form, "target");
    if (!(await confirmProof(administered(), target, textOf(form, "key"))))
      return [{ key: "The device has shown another key meanwhile. Compare that one." }, ""];
    await askReadings(plan, [target], by);
    return [{}, "Key confirmed. The device is being polled."];
  },
  async read({ plan, form, by }) {
    const one = textOf(form, "target");
    const count = await askReadings(plan, one === "" ? null : [rowNumber(form, "target")], by);
    return [
      {},
      count === 0
        ? "It is being read already."
        : count === 1
          ? "Asked for."
          : `${count} readings are asked for.`,
    ];
  },
  async cancel({ plan, form }) {
    await cancelRun(plan, rowNumber(form, "run"));
    return [{}, "Cancelled."];
  },
};

/** Does what a form of the devices' page says. */
export async function doOnDevices(
  request: Request,
  plan: EditablePlan,
  form: FormData,
  by: string,
): Promise<FormTold> {
  if (!(await headOf(plan))) notFound("There is no such plan; it may have been deleted.");
  const doing = textOf(form, "do");
  if (!Object.hasOwn(doings, doing))
    return { form: "", errors: { do: "this form is not known here" }, said: "" };
  try {
    const [errors, said] = await doings[doing]({
      plan,
      form,
      by,
      administered: () => permit(request, plan, "administers"),
    });
    return { form: doing, errors, said: Object.keys(errors).length > 0 ? "" : said };
  } catch (error) {
    if (error instanceof NoKey) return { form: doing, errors: { key: error.message }, said: "" };
    throw error;
  }
}

/** The first thing that is wrong with each field; never with what was typed. */
function errorsIn({ issues }: z.ZodError): FieldErrors {
  return Object.fromEntries(
    issues.toReversed().map(({ path, message }) => [String(path[0] ?? "do"), message]),
  );
}
