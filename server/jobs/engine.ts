/** Put in at build time; from the sources as they are, nothing is put in. */
declare const __ENGINE_VERSION__: string | undefined;

/** The version of the engine that this program was built with. */
export const engineVersion = typeof __ENGINE_VERSION__ === "string" ? __ENGINE_VERSION__ : "from source";
