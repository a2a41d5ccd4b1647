/** What an Active virtual router says of itself (RFC 9568, section 5.2), for IPv4. Times in centiseconds. */
export interface Advertisement {
  readonly id: number;
  /** 0: it steps back on purpose. 255: the owner of the addresses. */
  readonly priority: number;
  readonly maxIntervalCs: number;
  readonly addresses: readonly string[];
}

const VERSION_AND_TYPE = 0x31;
const FIXED = 8;
/** The number of the protocol, as it counts into the checksum (RFC 9568, section 5.1.1.4). */
const PROTOCOL = 112;

const bytesOf = (address: string) => address.split(".").map(Number);

/** The message, its checksum over the pseudo-header of these two addresses (RFC 9568, section 5.2.8). */
export function writeAdvertisement(
  { id, priority, maxIntervalCs, addresses }: Advertisement,
  from: string,
  to: string,
): Buffer {
  const bytes = Buffer.alloc(FIXED + addresses.length * 4);
  bytes[0] = VERSION_AND_TYPE;
  bytes[1] = id;
  bytes[2] = priority;
  bytes[3] = addresses.length;
  bytes.writeUInt16BE(maxIntervalCs & 0x0fff, 4);
  for (const [i, address] of addresses.entries()) bytes.set(bytesOf(address), FIXED + i * 4);
  bytes.writeUInt16BE(checksum(bytes, from, to), 6);
  return bytes;
}

/** What a message says; null for one that must be discarded (RFC 9568, section 7.1). */
export function readAdvertisement(bytes: Buffer, from: string, to: string): Advertisement | null {
  if (bytes.length < FIXED || bytes[0] !== VERSION_AND_TYPE) return null;
  const count = bytes[3];
  if (count === 0 || bytes.length < FIXED + count * 4 || bytes[1] === 0) return null;
  if (checksum(bytes, from, to) !== 0) return null;
  const addresses = Array.from({ length: count }, (_, i) =>
    [...bytes.subarray(FIXED + i * 4, FIXED + i * 4 + 4)].join("."),
  );
  return { id: bytes[1], priority: bytes[2], maxIntervalCs: bytes.readUInt16BE(4) & 0x0fff, addresses };
}

/** The internet checksum (RFC 1071); over a message that holds its own it is 0. */
function checksum(message: Buffer, from: string, to: string): number {
  const pseudo = Buffer.from([...bytesOf(from), ...bytesOf(to), 0, PROTOCOL, 0, message.length]);
  let sum = 0;
  for (const part of [pseudo, message])
    for (let i = 0; i < part.length; i += 2) sum += (part[i] << 8) | (part[i + 1] ?? 0);
  while (sum > 0xffff) sum = (sum & 0xffff) + (sum >>> 16);
  return ~sum & 0xffff;
}
