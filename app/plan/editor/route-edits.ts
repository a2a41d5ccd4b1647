import { describeRoute, type Edit, type StaticRoute } from "../../../core/plan/index.ts";

interface Device {
  id: string;
  label: string;
}

function routeEdit(
  device: Device,
  label: string,
  before: StaticRoute | null,
  after: StaticRoute | null,
): Edit {
  return {
    label: `${label} on ${device.label}`,
    changes: [{ in: "device", device: device.id, collection: "routes", before, after }],
  };
}

export function additionEdit(device: Device, route: StaticRoute): Edit {
  return routeEdit(device, `Add ${describeRoute(route)}`, null, route);
}

export function changeEdit(device: Device, before: StaticRoute, after: StaticRoute): Edit {
  return routeEdit(device, `Change ${describeRoute(before)}`, before, after);
}

export function removalEdit(device: Device, route: StaticRoute): Edit {
  return routeEdit(device, `Remove ${describeRoute(route)}`, route, null);
}

/** Disables a route, or enables a disabled one. */
export function switchEdit(device: Device, route: StaticRoute): Edit {
  const { enabled, ...rest } = route;
  const off = enabled === false;
  const label = `${off ? "Enable" : "Disable"} ${describeRoute(route)}`;
  return routeEdit(device, label, route, off ? rest : { ...rest, enabled: false });
}
