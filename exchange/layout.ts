import { z } from "zod";

/** What a token of a line can be. */
export const tokenRoleSchema = z.enum([
  "to",
  "mask",
  "via",
  "out",
  "distance",
  "metric",
  "pair",
  "word",
  "vrf",
  "table",
  "address",
  "hardware",
  "ignored",
]);

/** The layout of a text table, once corrected: the meanings of its words and the roles of its columns. */
export const layoutSchema = z.strictObject({
  ironForkLayout: z.literal(1),
  name: z.string().min(1).max(200),
  words: z.record(z.string(), z.string()).default({}),
  /** The roles of the cells of a line, in their order; where left out, a head or the shapes tell. */
  columns: z.array(tokenRoleSchema).optional(),
  /** For lines of a shape (the shapes of their tokens, in their order), the role of each token. */
  shapes: z.record(z.string().max(2000), z.array(tokenRoleSchema).max(200)).default({}),
});
export type Layout = z.output<typeof layoutSchema>;
export type TokenRole = z.output<typeof tokenRoleSchema>;

/** A layout's document that cannot be read, in a sentence. */
export class UnreadableLayout extends Error {}

/** Reads a layout document (JSON). Throws `UnreadableLayout` with the error. */
export function readLayout(text: string, name: string): Layout {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch {
    throw new UnreadableLayout(`${name} is not a layout: it is not valid JSON`);
  }
  const read = layoutSchema.safeParse(document);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  throw new UnreadableLayout(`${name} is not a layout: ${issue.path.join(".") || "it"}: ${issue.message}`);
}
