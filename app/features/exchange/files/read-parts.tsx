import type { ReadDevice, ReadLink } from "../../../queries/exchange.ts";

/** Items of a list that are drawn at most. */
const MOST = 400;

interface PartsProps {
  /** References of the excluded items. */
  without: readonly string[];
  onToggle: (ref: string) => void;
}

/** The devices that were read, each with a checkbox; unchecked ones are excluded. */
export function ReadDevices({ devices, without, onToggle }: PartsProps & { devices: readonly ReadDevice[] }) {
  return (
    <ul className="max-h-[46vh] overflow-auto">
      {devices.slice(0, MOST).map(({ id, name, role, outline, interfaces, routes, known }) => (
        <li key={id} className="border-rule border-t py-1">
          <label className="flex items-baseline gap-2">
            <input
              type="checkbox"
              checked={!without.includes(`device:${id}`)}
              onChange={() => onToggle(`device:${id}`)}
            />
            <span className={`font-medium ${outline ? "italic" : ""}`}>{name}</span>
            <span className="text-ink-2">
              {outline
                ? "outlined: known only from its neighbors"
                : `${role}, ${interfaces} ${interfaces === 1 ? "interface" : "interfaces"}, ${routes} ${routes === 1 ? "route" : "routes"}`}
              {known ? "; already in the plan, updated" : ""}
            </span>
          </label>
        </li>
      ))}
      {devices.length > MOST && <li className="text-ink-2">and {devices.length - MOST} more</li>}
    </ul>
  );
}

/** The links that were inferred, each with its reasons; the doubtful first. */
export function ReadLinks({ links, without, onToggle }: PartsProps & { links: readonly ReadLink[] }) {
  const ordered = [...links].sort((a, b) => Number(a.certain) - Number(b.certain));
  return (
    <ul className="max-h-[46vh] overflow-auto">
      {ordered.slice(0, MOST).map(({ id, ends, because, certain }) => (
        <li key={id} className="border-rule border-t py-1">
          <label className="flex items-baseline gap-2">
            <input
              type="checkbox"
              checked={!without.includes(`link:${id}`)}
              onChange={() => onToggle(`link:${id}`)}
            />
            <span>
              <span className="addr font-medium">{ends.join(" – ")}</span>{" "}
              <span className={certain ? "text-ink-2" : "text-warn"}>{certain ? "certain" : "assumed"}</span>
              <span className="block text-[13px] text-ink-2">{because.slice(0, 3).join("; ")}</span>
            </span>
          </label>
        </li>
      ))}
      {links.length > MOST && <li className="text-ink-2">and {links.length - MOST} more</li>}
    </ul>
  );
}
