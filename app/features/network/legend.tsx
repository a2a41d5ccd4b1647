import { Button } from "../../ui/button.tsx";
import { RoleSign } from "../../ui/plate.tsx";
import { PopoverBox } from "../../ui/popover.tsx";
import { Shield } from "../../ui/shield.tsx";
import { TabSet } from "../../ui/tabs.tsx";

const roles = ["router", "firewall", "host", "provider", "internet", "cloud"];

const lines = [
  { text: "cable: both ends detect a failure", width: 1.8, dash: undefined, colour: "var(--iron)" },
  { text: "circuit: no end detects a failure", width: 3, dash: "10 3", colour: "var(--iron)" },
  { text: "one end is down", width: 1.8, dash: "6 4", colour: "var(--iron)" },
  { text: "failed", width: 1.8, dash: "2 5", colour: "var(--stop)" },
];

/** What the signs on the map mean. */
export function Legend() {
  return (
    <PopoverBox label="Legend" side="top" trigger={<Button>Legend</Button>} className="w-80">
      <TabSet
        label="Symbols of"
        tabs={[
          { value: "devices", text: "Devices", body: <Devices /> },
          { value: "links", text: "Links", body: <Links /> },
          { value: "flow", text: "Flow", body: <ChosenFlow /> },
        ]}
      />
    </PopoverBox>
  );
}

function Devices() {
  return (
    <ul className="grid grid-cols-2 gap-x-3">
      {roles.map((role) => (
        <li key={role} className="flex items-center gap-2">
          <RoleSign role={role} size={12} />
          {role}
        </li>
      ))}
      <li className="col-span-2 flex items-center gap-2">
        <svg width="22" height="14" viewBox="-1 -1 22 14" aria-hidden="true">
          <path d="M0 0H20V12H0z" fill="none" stroke="currentColor" strokeWidth="1.5" strokeDasharray="2 3" />
        </svg>
        dotted: outlined, not modeled beyond
      </li>
    </ul>
  );
}

function Links() {
  return (
    <ul>
      {lines.map(({ text, width, dash, colour }) => (
        <li key={text} className="flex items-center gap-2">
          <svg width="44" height="8" aria-hidden="true">
            <path d="M1 4H43" stroke={colour} strokeWidth={width} strokeDasharray={dash} />
          </svg>
          {text}
        </li>
      ))}
      <li className="flex items-center gap-2">
        <svg width="44" height="8" aria-hidden="true">
          <rect x="6" y="1" width="32" height="6" rx="2" fill="var(--iron)" />
        </svg>
        segment with three or more interfaces
      </li>
    </ul>
  );
}

function ChosenFlow() {
  return (
    <ul>
      <li className="flex items-center gap-2">
        <Shield gateway={0} label="a gateway" size={20} /> active gateway
      </li>
      <li className="flex items-center gap-2">
        <Shield gateway={1} label="a gateway" size={20} outline /> other gateway
      </li>
      <li>thick line: forward path; double thin line: return path; faint: standby path</li>
    </ul>
  );
}
