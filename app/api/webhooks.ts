import { z } from "zod";
import { auditDetail } from "../../server/access/audit.ts";
import { NoKey } from "../../server/live/seal.ts";
import { refusalOf } from "../../server/webhooks/deliver.ts";
import { addWebhook, dropWebhook, webhooksOf } from "../../server/webhooks/webhooks.ts";
import { endpoint } from "./endpoint.ts";
import { needHead } from "./plans.ts";
import { Problem } from "./problem.ts";

const shown = z.strictObject({
  id: z.string(),
  url: z.string(),
  madeBy: z.string(),
  madeAt: z.iso.datetime(),
  lastAt: z.iso.datetime().nullable(),
  lastTold: z.string().nullable(),
});

export const webhooks = [
  endpoint({
    method: "GET",
    path: "/plans/{plan}/webhooks",
    role: "administers",
    summary: "Webhooks, each with the result of its last delivery",
    reply: z.strictObject({ webhooks: z.array(shown) }),
    answer: async ({ plan }) => {
      await needHead(plan);
      const rows = await webhooksOf(plan);
      return {
        body: {
          webhooks: rows.map((row) => ({
            ...row,
            madeAt: row.madeAt.toISOString(),
            lastAt: row.lastAt?.toISOString() ?? null,
          })),
        },
      };
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans/{plan}/webhooks",
    role: "administers",
    summary: "Adds a webhook",
    description:
      "Each event is posted as JSON with webhook-id, webhook-timestamp and webhook-signature (Standard Webhooks), to addresses in IRON_FORK_HOOKS only. The secret is shown once.",
    body: z.strictObject({
      url: z
        .url({ protocol: /^https?$/, error: "expected an address that begins with https:// or http://" })
        .max(2000),
    }),
    withheld: ["secret"],
    reply: z.strictObject({ id: z.string(), secret: z.string().nullable() }),
    status: 201,
    answer: async ({ plan, body, author }) => {
      await needHead(plan);
      const refusal = await refusalOf(body.url);
      if (refusal) throw new Problem(422, refusal);
      auditDetail({ url: new URL(body.url).origin });
      try {
        return { status: 201, body: await addWebhook(plan, body.url, author.name) };
      } catch (error) {
        if (error instanceof NoKey) throw new Problem(503, error.message);
        throw error;
      }
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans/{plan}/webhooks/{webhook}/removal",
    role: "administers",
    summary: "Removes a webhook",
    body: z.strictObject({}),
    reply: z.strictObject({ removed: z.string() }),
    answer: async ({ plan, params }) => {
      await needHead(plan);
      const known = /^[1-9]\d{0,17}$/.test(params.webhook) && (await dropWebhook(plan, params.webhook));
      if (!known) throw new Problem(404, "The plan has no such webhook.");
      return { body: { removed: params.webhook } };
    },
  }),
];
