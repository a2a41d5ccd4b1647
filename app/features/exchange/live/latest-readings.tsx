import { Form } from "react-router";
import { HiddenParams } from "../../../plan/hidden-params.tsx";
import { Button } from "../../../ui/button.tsx";
import { ClockTime } from "../../../ui/clock-time.tsx";

/** Latest readings, as the server keeps it. */
export interface ReadingList {
  readings: {
    id: string;
    device: string;
    readAt: Date;
    author: string;
    interfaces: number;
    routes: number;
    neighbours: number;
  }[];
  /** The address searched for; `unread` if it is invalid. */
  find: string;
  unread: boolean;
}

/** Devices that are listed at most. */
const MOST = 300;

/** The stored readings of each device, from files or polling, with search by address. */
export function LatestReadings({ kept: { readings, find, unread } }: { kept: ReadingList }) {
  if (readings.length === 0 && find === "") return null;
  return (
    <section aria-label="Latest readings" className="max-w-4xl">
      <div className="flex flex-wrap items-end gap-3">
        <h2 className="font-semibold font-sign text-[20px]">Latest readings</h2>
        <Form method="get" className="flex items-end gap-2">
          <HiddenParams but={["find"]} />
          <label className="flex flex-col text-[13px] text-ink-2">
            Find an address in the readings
            <input name="find" defaultValue={find} className="field addr w-44" spellCheck={false} />
          </label>
          <Button type="submit">Find</Button>
        </Form>
      </div>
      {unread && (
        <p role="alert" className="text-stop">
          "{find.slice(0, 60)}" is not an IPv4 or IPv6 address; all readings are listed.
        </p>
      )}
      <ul className="mt-2">
        {readings.slice(0, MOST).map(({ id, device, readAt, author, interfaces, routes, neighbours }) => (
          <li key={id} className="flex flex-wrap gap-3 border-rule border-t py-1">
            <span className="font-medium">{device}</span>
            <span className="text-ink-2">
              {interfaces} interfaces, {routes} routes, {neighbours} neighbors
            </span>
            <span className="ml-auto text-[13px] text-ink-2">
              {author}, <ClockTime at={readAt} />
            </span>
          </li>
        ))}
        {readings.length > MOST && <li className="text-ink-2">and {readings.length - MOST} more</li>}
        {readings.length === 0 && <li className="text-ink-2">No reading contains a network with {find}.</li>}
      </ul>
    </section>
  );
}
