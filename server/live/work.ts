import type { EditablePlan, ReadablePlan } from "../access/grants.ts";
import { database, write } from "../pool.ts";

const sql = {
  /** plan id */
  deviceWork: `
    select id::text, device, kind, subject, text, author, noted_at as "notedAt"
    from device_work where plan = $1 order by device, noted_at`,
  /** plan, device, kind, subject, text, author */
  noteWork: `
    insert into device_work (plan, device, kind, subject, text, author) values ($1, $2, $3, $4, $5, $6)
    on conflict do nothing`,
  /** plan, work */
  dropWork: "delete from device_work where plan = $1 and id = $2::bigint",
} as const;

/** A difference recorded as work for the device. */
export interface DeviceWork {
  readonly id: string;
  readonly device: string;
  readonly kind: string;
  readonly subject: string;
  readonly text: string;
  readonly author: string;
  readonly notedAt: Date;
}

export async function deviceWork(plan: ReadablePlan): Promise<DeviceWork[]> {
  return (await database().query<DeviceWork>(sql.deviceWork, [plan])).rows;
}

/** Records a difference as work; an existing record is unchanged. */
export async function noteWork(
  plan: EditablePlan,
  { device, kind, subject, text }: Pick<DeviceWork, "device" | "kind" | "subject" | "text">,
  author: string,
): Promise<void> {
  await write(sql.noteWork, [plan, device, kind, subject, text, author]);
}

export async function dropWork(plan: EditablePlan, id: string): Promise<void> {
  await write(sql.dropWork, [plan, id]);
}
