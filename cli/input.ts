import { readFileSync } from "node:fs";
import {
  type Address,
  formatPrefix,
  networkOf,
  type Prefix,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
} from "../core/address/index.ts";
import { type ElementNumber, findElement } from "../core/network/index.ts";
import { formatPlanError, missingElement, type Plan, type Reading } from "../core/plan/index.ts";
import { NetworkModel, type Scenario } from "../core/scenario/index.ts";
import { readPlanText } from "../exchange/plan-text.ts";

/** Unusable input: reported on standard error, exit code 2. */
export class UnusableInput extends Error {}

export function readFile(path: string): string {
  try {
    return readFileSync(path, "utf8");
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    const why =
      code === "ENOENT" ? "there is no such file" : code === "EISDIR" ? "it is a folder" : String(error);
    throw new UnusableInput(`cannot read ${path}: ${why}`);
  }
}

/** Plans that are kept ready at once. */
const KEPT = 16;

/** Plans by their files, each read and made ready once: what one command line, or a batch of them, works on. */
export class PlanFiles {
  private readonly readings = new Map<string, Reading>();
  private readonly models = new Map<string, Scenario>();

  /** The document in a file, or its errors. */
  reading(path: string): Reading {
    return kept(this.readings, path, () => readPlanText(readFile(path)));
  }

  /** The file's current text. */
  text(path: string): string {
    return readFile(path);
  }

  plan(path: string): Plan {
    const reading = this.reading(path);
    if (!reading.ok)
      throw new UnusableInput(reading.errors.map((e) => `${path}: ${formatPlanError(e)}`).join("\n"));
    return reading.plan;
  }

  model(path: string): Scenario {
    return kept(this.models, path, () => NetworkModel.compile(this.plan(path)));
  }
}

function kept<T>(known: Map<string, T>, key: string, make: () => T): T {
  const value = known.get(key) ?? make();
  known.delete(key);
  known.set(key, value);
  if (known.size > KEPT) known.delete(known.keys().next().value as string);
  return value;
}

export function elementsOf(model: Scenario, references: readonly string[]): ElementNumber[] {
  return references.map((text) => {
    const element = findElement(model.network, text);
    if (element === null) {
      throw new UnusableInput(missingElement(text, model.plan) ?? `there is no element ${text}`);
    }
    return element;
  });
}

/** The plan with elements down, each of which it must have. */
export function underFailures(model: Scenario, references: readonly string[]): Scenario {
  elementsOf(model, references);
  return model.under(references);
}

export function deviceOf(model: Scenario, id: string): number {
  const device = model.network.deviceIndex.get(id);
  if (device === undefined) throw new UnusableInput(`there is no device ${id}`);
  return device;
}

export function vrfOf(model: Scenario, device: number, vrf: string): string {
  const { id, vrfs } = model.network.devices[device];
  if (!vrfs.includes(vrf)) throw new UnusableInput(`${id} has no VRF ${vrf}; it has ${vrfs.join(", ")}`);
  return vrf;
}

export function addressOf(text: string): Address {
  const address = parseAddress(text);
  if (!address) throw new UnusableInput(`"${text}" is not an IPv4 or IPv6 address`);
  return address;
}

export function prefixOf(text: string): Prefix {
  const prefix = parsePrefix(text);
  if (prefix) return prefix;
  const read = parseInterfaceAddress(text);
  if (!read) throw new UnusableInput(`"${text}" is not a prefix, such as 172.20.16.0/24`);
  const meant = formatPrefix({ address: networkOf(read.address, read.length), length: read.length });
  throw new UnusableInput(`"${text}" has host bits set; the prefix is ${meant}`);
}
