import { Link } from "react-router";
import type { NodeDrawing } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { MapDevice } from "../../queries/map.ts";
import { deviceHref, pageHref, toggleHref, withParam } from "../../search/links.ts";
import { MenuHere } from "../../ui/menu.tsx";
import { plateOutline } from "../../ui/plate.tsx";

interface DevicePlateProps {
  device: MapDevice;
  node: NodeDrawing;
  /** Whether the chosen flow starts or ends here. */
  onWay: boolean;
  pathname: string;
  onPointerDown: (event: React.PointerEvent) => void;
}

/** A device on the map: its plate fails or restores it, its name leads to its routes. */
export function DevicePlate({ device, node, onWay, pathname, onPointerDown }: DevicePlateProps) {
  const { planId, params } = usePlan();
  const { width: w, height: h } = node;
  const ref = `device:${device.id}`;
  // While the network is edited, a plate chooses its device instead of failing it.
  const edits = params.has("edit");
  const does = edits ? "Edit" : device.up ? "Fail" : "Restore";
  const chosen = params.get("edit") === ref;
  const items = [
    { text: `${device.up ? "Fail" : "Restore"} ${device.label}`, to: toggleHref(pathname, params, ref) },
    { text: "Routes", to: deviceHref(planId, device.id, params) },
    { text: "Its rows in all routes", to: pageHref(planId, "routes", params, { only: device.id }) },
    { text: "Paths from this device", to: pageHref(planId, "paths", params, { from: device.id }) },
    { text: "Edit", to: pageHref(planId, "map", params, { edit: ref }) },
  ];
  return (
    <MenuHere items={items}>
      <g transform={`translate(${node.x} ${node.y})`} onPointerDown={onPointerDown}>
        <Link
          to={edits ? withParam(params, "edit", ref) : toggleHref(pathname, params, ref)}
          aria-label={`${does} ${device.label}`}
          preventScrollReset
          draggable={false}
          className="group"
        >
          <title>{`${does} ${device.label} (${device.outline ? "outlined" : device.role})`}</title>
          <path
            d={plateOutline(device.role, w, h)}
            fill={onWay || chosen ? "var(--chosen)" : "var(--panel)"}
            stroke={device.up ? "var(--iron)" : "var(--stop)"}
            strokeWidth="2"
            strokeDasharray={!device.up ? "5 4" : device.outline ? "2 4" : undefined}
            fillRule="evenodd"
            className="group-hover:stroke-[3] group-focus-visible:stroke-[4]"
          />
          {device.role === "internet" && (
            <path d={`M3 3H${w - 3}V${h - 3}H3z`} fill={onWay ? "var(--chosen)" : "var(--panel)"} />
          )}
          {!device.up && <path d={`M0 ${h}L${w} 0`} stroke="var(--stop)" strokeWidth="2" />}
        </Link>
        <Link
          to={edits ? withParam(params, "edit", ref) : deviceHref(planId, device.id, params)}
          draggable={false}
          preventScrollReset
          tabIndex={edits ? -1 : undefined}
          aria-label={edits ? `Edit ${device.label}` : `Routes of ${device.label}`}
        >
          <text
            x={w / 2}
            y={h / 2 + 6.5}
            textAnchor="middle"
            fontSize="19"
            fontWeight="600"
            fontFamily="var(--font-sign)"
            fill={onWay ? "var(--chosen-ink)" : device.up ? "var(--ink)" : "var(--stop)"}
            className="hover:underline"
          >
            {device.label}
          </text>
        </Link>
      </g>
    </MenuHere>
  );
}
