import { isPlanId } from "../plans.ts";
import { database } from "../pool.ts";
import { sql } from "../sql.ts";

/** A difference that stands as work for the device. */
export interface DeviceWork {
  readonly id: string;
  readonly device: string;
  readonly kind: string;
  readonly subject: string;
  readonly text: string;
  readonly author: string;
  readonly notedAt: Date;
}

export async function deviceWork(plan: string): Promise<DeviceWork[]> {
  if (!isPlanId(plan)) return [];
  return (await database().query<DeviceWork>(sql.deviceWork, [plan])).rows;
}

/** Notes a difference as work; one that is noted already stays as it is. */
export async function noteWork(
  plan: string,
  { device, kind, subject, text }: Pick<DeviceWork, "device" | "kind" | "subject" | "text">,
  author: string,
): Promise<void> {
  await database().query(sql.noteWork, [plan, device, kind, subject, text, author]);
}

export async function dropWork(plan: string, id: string): Promise<void> {
  await database().query(sql.dropWork, [plan, id]);
}
