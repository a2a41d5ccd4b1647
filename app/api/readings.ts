import { z } from "zod";
import { type DeviceFacts, deviceFactsSchema, readingOf } from "../../exchange/facts/index.ts";
import { askReadings } from "../../server/live/runs.ts";
import { targetsOf } from "../../server/live/targets.ts";
import { keepReadings, newestReadings } from "../../server/readings.ts";
import { endpoint } from "./endpoint.ts";
import { needHead } from "./plans.ts";

const target = z.strictObject({
  id: z.string(),
  device: z.string(),
  address: z.string(),
  state: z.enum(["waiting", "reading", "read", "failed", "cancelled"]).nullable(),
  told: z.string().nullable(),
  lastReadAt: z.iso.datetime().nullable(),
});

export const readings = [
  endpoint({
    method: "GET",
    path: "/plans/{plan}/runs",
    role: "reads",
    summary: "Polled devices, each with its last run",
    reply: z.strictObject({ targets: z.array(target) }),
    answer: async ({ plan }) => {
      await needHead(plan);
      const rows = await targetsOf(plan);
      return {
        body: {
          targets: rows.map(({ id, device, address, run, lastReadAt }) => ({
            id,
            device,
            address,
            state: run?.state ?? null,
            told: run?.told ?? null,
            lastReadAt: lastReadAt?.toISOString() ?? null,
          })),
        },
      };
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans/{plan}/runs",
    role: "edits",
    summary: "Polls devices: those named, or all",
    body: z.strictObject({
      targets: z
        .array(z.string().regex(/^[1-9]\d{0,17}$/))
        .max(5000)
        .optional(),
    }),
    reply: z.strictObject({ asked: z.number().int() }),
    status: 202,
    answer: async ({ plan, body, author }) => {
      await needHead(plan);
      return {
        status: 202,
        body: { asked: await askReadings(plan, body.targets ?? null, author.name) },
      };
    },
  }),
  endpoint({
    method: "GET",
    path: "/plans/{plan}/facts",
    role: "reads",
    summary: "Latest facts of each device",
    reply: z.strictObject({
      facts: z.array(
        z.strictObject({
          device: z.string(),
          readAt: z.iso.datetime(),
          author: z.string(),
          facts: deviceFactsSchema,
        }),
      ),
    }),
    answer: async ({ plan }) => {
      await needHead(plan);
      const rows = await newestReadings<DeviceFacts>(plan, null);
      return {
        body: {
          facts: rows.map(({ device, readAt, author, facts }) => ({
            device,
            readAt: readAt.toISOString(),
            author,
            facts,
          })),
        },
      };
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans/{plan}/facts",
    role: "edits",
    summary: "Saves facts of devices",
    body: z.strictObject({ facts: z.array(deviceFactsSchema).min(1).max(5000) }),
    reply: z.strictObject({ kept: z.number().int() }),
    status: 201,
    answer: async ({ plan, body, author }) => {
      await needHead(plan);
      await keepReadings(plan, author.name, body.facts.map(readingOf));
      return { status: 201, body: { kept: body.facts.length } };
    },
  }),
];
