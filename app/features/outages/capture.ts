import { useSyncExternalStore } from "react";
import {
  type Conversation,
  type Conversations,
  conversationsOf,
  readCapture,
} from "../../../exchange/capture/index.ts";

/** A capture that was loaded: it stays in the browser. */
export interface LoadedCapture extends Conversations {
  readonly name: string;
  readonly frames: number;
  readonly notes: readonly string[];
  /** When its first frame was seen, in milliseconds since 1970. */
  readonly startMs: number;
}

export type Loading = { ok: true; capture: LoadedCapture } | { ok: false; message: string };

export function loadCapture(name: string, bytes: Uint8Array): Loading {
  const reading = readCapture(bytes);
  if (!reading.ok) return { ok: false, message: `${name}: ${reading.message}` };
  const told = conversationsOf(reading.frames);
  if (told.conversations.length === 0) {
    const kinds = [...new Set(reading.frames.map((frame) => frame.linkType))].join(", ");
    const held =
      reading.frames.length === 0 ? "no packets" : `no echo, TCP or UDP packets (link type ${kinds})`;
    return { ok: false, message: `${name} holds ${held} that can be evaluated` };
  }
  const startMs = reading.frames.reduce((first, { atMs }) => Math.min(first, atMs), Number.POSITIVE_INFINITY);
  return {
    ok: true,
    capture: { ...told, name, frames: reading.frames.length, notes: reading.notes, startMs },
  };
}

export function conversationText({ client, server, protocol, port, packets }: Conversation): string {
  return `${client} to ${server}, ${protocol === "icmp" ? "echo" : `${protocol} ${port}`}, ${packets.length} packets`;
}

/** The capture of each plan, kept while the pages are open. */
const held = new Map<string, LoadedCapture>();
const listeners = new Set<() => void>();

export function keepCapture(planId: string, capture: LoadedCapture | null) {
  if (capture) held.set(planId, capture);
  else held.delete(planId);
  for (const listener of listeners) listener();
}

export function useCapture(planId: string): LoadedCapture | null {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => held.get(planId) ?? null,
    () => null,
  );
}
