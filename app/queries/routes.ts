import { candidatesIn, routeReport } from "../../core/reports/index.ts";
import type { Looked } from "../search/looked.ts";
import { conditionsOf } from "./conditions.ts";
import type { Prepared } from "./engines.ts";

export interface DeviceRow {
  id: string;
  label: string;
  role: string;
  site: string;
  up: boolean;
  interfaces: number;
  interfacesDown: number;
  inUse: number;
  standby: number;
  unusable: number;
  disabled: number;
}

export interface RoutesAnswer {
  devices: DeviceRow[];
}

/** Every device with how its written and learned routes fare. */
export function routesAnswer(prepared: Prepared, looked: Looked): RoutesAnswer {
  const conditions = conditionsOf(prepared, looked);
  const { world } = conditions.settled;
  const { network } = prepared.engine;
  return {
    devices: network.devices.map((record) => {
      const reports = record.vrfs
        .flatMap((_, table) => candidatesIn(world, record.index, table))
        .map((c) => routeReport(world, c))
        .filter((report) => report.source !== "connected" && report.source !== "local");
      const ports = Array.from(
        { length: record.endInterface - record.firstInterface },
        (_, i) => record.firstInterface + i,
      );
      const count = (state: string) => reports.filter((report) => report.state === state).length;
      return {
        id: record.id,
        label: record.label,
        role: record.role,
        site: prepared.plan.devices[record.index].site ?? "",
        up: world.state.deviceAlive[record.index] === 1,
        interfaces: ports.length,
        interfacesDown: ports.filter((i) => !world.state.interfaceUp[i]).length,
        inUse: count("in-use"),
        standby: count("standby"),
        unusable: count("unusable"),
        disabled: count("disabled"),
      };
    }),
  };
}
