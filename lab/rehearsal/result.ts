import { z } from "zod";

const milliseconds = z.strictObject({ min: z.number().nullable(), max: z.number().nullable() });
const carriers = z.array(z.string());

/** The result of a rehearsal beside the prediction. Times in milliseconds from the first failure; null: without limit.
 * */
export const rehearsalSchema = z.strictObject({
  /** Whether every flow that could be sent did as predicted. */
  agrees: z.boolean(),
  /** How late this machine was at worst while it ran, and how long its kernel took for a failure. */
  delayMs: z.number(),
  tookMs: z.number(),
  /** The allowed difference between prediction and observation: four times that lateness, that time, and 40 ms. */
  allowedMs: z.number(),
  flows: z.array(
    z.strictObject({
      id: z.string(),
      predicted: milliseconds,
      /** null: the lab has nothing to send it from. */
      observed: z
        .strictObject({
          outageMs: milliseconds,
          /** Packets at the flow's own rate. */
          lost: z.number(),
          carriers: z.strictObject({
            before: carriers.nullable(),
            during: z.array(carriers),
            after: carriers.nullable(),
          }),
        })
        .nullable(),
      agrees: z.boolean().nullable(),
      why: z.string().nullable(),
    }),
  ),
  /** What watches and virtual routers did. */
  events: z.array(z.strictObject({ atMs: z.number(), what: z.string() })),
  /** What the kernel could not show, in sentences. */
  leftOut: z.array(z.string()),
});

export type Rehearsal = z.output<typeof rehearsalSchema>;
export type RehearsedFlow = Rehearsal["flows"][number];
