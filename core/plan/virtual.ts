import { z } from "zod";
import { addressField, millisecondsField, nameField } from "./fields.ts";

/** What lowers a virtual router's priority while it is down (rule 14.3): a watch or an interface of the device. */
export const trackSchema = z
  .strictObject({
    watch: nameField.optional(),
    interface: nameField.optional(),
    lower: z.number().int().min(1).max(254).default(10),
  })
  .superRefine((track, ctx) => {
    if ((track.watch === undefined) === (track.interface === undefined))
      ctx.addIssue({ code: "custom", message: "track either a watch or an interface" });
  });
export type Track = z.output<typeof trackSchema>;

/** A virtual router on an interface (rule 14, RFC 9568); one for each family of its addresses. */
export const virtualRouterSchema = z.strictObject({
  id: z.number().int().min(1, "an id must be 1 to 255").max(255, "an id must be 1 to 255"),
  addresses: z.array(addressField).min(1, "a virtual router needs an address"),
  /** Of the owner of the addresses it is 255, whatever is written. */
  priority: z
    .number()
    .int()
    .min(1, "a priority must be 1 to 254")
    .max(254, "a priority must be 1 to 254")
    .default(100),
  preempt: z.boolean().default(true),
  preemptDelayMs: millisecondsField.default(0),
  advertMs: z
    .number()
    .int("must be whole milliseconds")
    .min(10, "an advertisement interval must be 10 to 40950 ms")
    .max(40_950, "an advertisement interval must be 10 to 40950 ms")
    .default(1000),
  /** Whether packets sent to the virtual address are taken by one that does not own it. */
  accept: z.boolean().default(false),
  track: z.array(trackSchema).default([]),
  /** Virtual routers of one name on a device are Active together or not at all (rule 14.7). */
  sync: nameField.optional(),
});
export type VirtualRouter = z.output<typeof virtualRouterSchema>;
