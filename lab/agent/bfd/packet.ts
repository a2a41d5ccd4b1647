/** States of a session, as the two bits say them (RFC 5880, section 4.1). */
export const bfdStates = { adminDown: 0, down: 1, init: 2, up: 3 } as const;
export type BfdState = (typeof bfdStates)[keyof typeof bfdStates];

/** Diagnostic codes that a session of ours says (RFC 5880, section 4.1). */
export const diagnostics = { none: 0, timeExpired: 1, neighbourSaidDown: 3, adminDown: 7 } as const;

/** A control packet without authentication (RFC 5880, section 4.1). Times in microseconds. */
export interface ControlPacket {
  readonly diagnostic: number;
  readonly state: BfdState;
  readonly poll: boolean;
  readonly final: boolean;
  readonly multiplier: number;
  readonly mine: number;
  readonly yours: number;
  readonly minTxUs: number;
  readonly minRxUs: number;
}

const LENGTH = 24;
const VERSION = 1;
const flags = { poll: 0x20, final: 0x10, authentication: 0x04, multipoint: 0x01 } as const;

/** The 24 bytes of a packet. */
export function writeControl(packet: ControlPacket): Buffer {
  const bytes = Buffer.alloc(LENGTH);
  bytes[0] = (VERSION << 5) | packet.diagnostic;
  bytes[1] = (packet.state << 6) | (packet.poll ? flags.poll : 0) | (packet.final ? flags.final : 0);
  bytes[2] = packet.multiplier;
  bytes[3] = LENGTH;
  bytes.writeUInt32BE(packet.mine, 4);
  bytes.writeUInt32BE(packet.yours, 8);
  bytes.writeUInt32BE(packet.minTxUs, 12);
  bytes.writeUInt32BE(packet.minRxUs, 16);
  // The required minimum echo receive interval stays 0: no echoes are sent back.
  return bytes;
}

/** What a packet says; null for one that must be discarded before its session is looked for (RFC 5880, section 6.8.6). */
export function readControl(bytes: Buffer): ControlPacket | null {
  if (bytes.length < LENGTH || bytes[0] >> 5 !== VERSION) return null;
  const length = bytes[3];
  if (length < LENGTH || length > bytes.length) return null;
  const said = bytes[1];
  if (said & (flags.authentication | flags.multipoint)) return null;
  const packet: ControlPacket = {
    diagnostic: bytes[0] & 0x1f,
    state: (said >> 6) as BfdState,
    poll: (said & flags.poll) !== 0,
    final: (said & flags.final) !== 0,
    multiplier: bytes[2],
    mine: bytes.readUInt32BE(4),
    yours: bytes.readUInt32BE(8),
    minTxUs: bytes.readUInt32BE(12),
    minRxUs: bytes.readUInt32BE(16),
  };
  if (packet.multiplier === 0 || packet.mine === 0) return null;
  if (packet.yours === 0 && packet.state > bfdStates.down) return null;
  return packet;
}
