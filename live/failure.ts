/** Why a device could not be read, in a sentence that holds no secret. `again`: whether another attempt may help. */
export class NotRead extends Error {
  constructor(
    message: string,
    readonly again: boolean,
  ) {
    super(message);
  }
}

/** The device presented a key that is not confirmed. Nothing of the credential was sent. */
export class KeyNotConfirmed extends NotRead {
  constructor(readonly proof: string) {
    super("The device key is not confirmed. Compare it with the device, then confirm it.", false);
  }
}

/** The reading was ended by who asked for it. */
export class Cancelled extends NotRead {
  constructor() {
    super("cancelled", false);
  }
}

const reasons: Readonly<Record<string, string>> = {
  ECONNREFUSED: "connection refused",
  ECONNRESET: "the device closed the connection",
  EHOSTUNREACH: "the device cannot be reached: no route, or no response",
  ENETUNREACH: "the device cannot be reached: no route",
  ETIMEDOUT: "the device does not respond",
};

/** A connection that failed, in a sentence; another attempt may help. */
export function connectionFailed(error: Error & { code?: string }): NotRead {
  const known = reasons[error.code ?? ""];
  // Library messages may quote the request; the error code does not.
  const code = /^[A-Z][A-Z0-9_]{1,40}$/.test(error.code ?? "") ? ` (${error.code})` : "";
  return new NotRead(known ?? `the connection failed${code}`, true);
}
