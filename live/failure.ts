/** Why a device could not be read, in a sentence that holds no secret. `again`: whether another attempt may help. */
export class NotRead extends Error {
  constructor(
    message: string,
    readonly again: boolean,
  ) {
    super(message);
  }
}

/** The reading was ended by who asked for it. */
export class Cancelled extends NotRead {
  constructor() {
    super("cancelled", false);
  }
}
