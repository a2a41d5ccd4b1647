import { setTimeout as rest } from "node:timers/promises";
import type { Collector, LineFate } from "../exchange/facts/index.ts";
import type { InputFile } from "../exchange/readers/index.ts";
import { readFiles } from "../exchange/readings.ts";
import type { Ask } from "./asking.ts";
import { Cancelled, NotRead } from "./failure.ts";
import { type Limits, Meter, usualLimits } from "./limits.ts";
import { withoutLongSecrets } from "./redact.ts";
import { isAllowed, type Secret, type Target, type Way } from "./target.ts";
import { askByNetconf } from "./ways/netconf.ts";
import { askByRestconf } from "./ways/restconf.ts";
import { askBySnmp } from "./ways/snmp.ts";
import { askBySsh } from "./ways/ssh.ts";

const askBy: Readonly<Record<Way, Ask>> = {
  "snmp-v2c": askBySnmp,
  "snmp-v3": askBySnmp,
  restconf: askByRestconf,
  netconf: askByNetconf,
  ssh: askBySsh,
};

/** What a reading is done with. */
export interface ReadOptions {
  /** Prefixes whose addresses may be asked; whatever lies elsewhere is refused before anything is sent. */
  readonly allowed: readonly string[];
  readonly limits?: Limits;
  /** Ends the reading. */
  readonly signal?: AbortSignal;
  readonly tell?: (text: string) => void;
}

/** What a device said: its facts, and the fate of every line. */
export interface Reading {
  readonly collector: Collector;
  readonly lines: readonly LineFate[];
}

/** Reads one device: attempts as many as allowed, each longer after the last. Throws `NotRead` with the reason. */
export async function readDevice(target: Target, secret: Secret, options: ReadOptions): Promise<Reading> {
  return understood(await askDevice(target, secret, options), target.device);
}

/** What a device's answers say. Throws `NotRead` if that is nothing. */
export function understood(files: readonly InputFile[], device: string): Reading {
  const { devices, lines } = readFiles([...files], { device });
  const [collector] = devices;
  if (!collector || (collector.facts.interfaces.length === 0 && collector.facts.routes.length === 0))
    throw new NotRead("the answer was not understood", false);
  return { collector, lines };
}

/** The answers of one device, as they came. Throws `NotRead` with the reason. */
export async function askDevice(
  target: Target,
  secret: Secret,
  options: ReadOptions,
): Promise<readonly InputFile[]> {
  const { limits = usualLimits, signal = new AbortController().signal, tell = () => {} } = options;
  if (!isAllowed(target.address, options.allowed))
    throw new NotRead(`${target.address} is outside the prefixes that may be polled`, false);
  for (let attempt = 1; ; attempt++) {
    try {
      const files = await attemptOnce(target, secret, limits, signal, tell);
      return files.map(({ name, text }) => ({ name, text: withoutLongSecrets(text, secret) }));
    } catch (error) {
      if (signal.aborted) throw new Cancelled();
      const why = error instanceof NotRead ? error : new NotRead(`polling failed: ${nameOf(error)}`, false);
      if (!why.again || attempt >= limits.attempts) throw why;
      const pause = limits.backoffMs * 2 ** (attempt - 1);
      tell(`${why.message}; again in ${Math.round(pause / 1000)} s`);
      await rest(pause, undefined, { signal }).catch(() => {
        throw new Cancelled();
      });
    }
  }
}

async function attemptOnce(
  target: Target,
  secret: Secret,
  limits: Limits,
  signal: AbortSignal,
  tell: (text: string) => void,
): Promise<InputFile[]> {
  const own = new AbortController();
  const late = setTimeout(
    () => own.abort(new NotRead(`no result after ${Math.round(limits.attemptMs / 1000)} s`, false)),
    limits.attemptMs,
  );
  const leave = () => own.abort(new Cancelled());
  signal.addEventListener("abort", leave, { once: true });
  if (signal.aborted) leave();
  try {
    const meter = new Meter(limits.bytes);
    return await askBy[target.way]({ target, secret, limits, meter, signal: own.signal, tell });
  } finally {
    clearTimeout(late);
    signal.removeEventListener("abort", leave);
  }
}

/** Only the type of an unexpected error: its message may quote the request. */
const nameOf = (error: unknown) => (error instanceof Error ? error.name : "an unknown error");
