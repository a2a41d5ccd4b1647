/** How the application is served; from the environment that bin/start sets. */
export interface Options {
  readonly host: string;
  readonly port: number;
  /** Host headers that are answered, besides those of this machine's own loopback names. */
  readonly allowedHosts: readonly string[];
  /** Prefixes of proxies whose word on where a request came from, and by which way, is taken. */
  readonly behindProxy: string[];
  /** Folders whose disks need free space before any write: database and log, if on this machine. */
  readonly disks: readonly string[];
  /** Files with the certificate and its key, where this server speaks TLS itself; null where it does not. */
  readonly tls: { readonly cert: string; readonly key: string } | null;
}

export function readOptions(env: NodeJS.ProcessEnv): Options {
  const port = Number(env.PORT ?? 3000);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new Error(`PORT is ${env.PORT}; it must be a whole number from 1 to 65535`);
  const host = env.HOST ?? "127.0.0.1";
  const allowedHosts = (env.ALLOW_HOST ?? "").split(/[\s,]+/).filter((name) => name !== "");
  const behindProxy = (env.BEHIND_PROXY ?? "").split(/[\s,]+/).filter((prefix) => prefix !== "");
  const disks = (env.IRON_FORK_DISKS ?? "").split(":").filter((folder) => folder !== "");
  const { TLS_CERT: cert = "", TLS_KEY: key = "" } = env;
  if ((cert === "") !== (key === "")) throw new Error("TLS needs both: --cert FILE and --key FILE");
  return { host, port, allowedHosts, behindProxy, disks, tls: cert === "" ? null : { cert, key } };
}

/**
 * Whether a page of an origin is this server's own: it has the very name, port and scheme under which the request came.
 * "[::1]" and "localhost" are this machine's both, but no page of one is a page of the other.
 */
export function isOwnOrigin(origin: string, host: string | undefined, protocol: string): boolean {
  return host !== undefined && origin.toLowerCase() === `${protocol}://${host}`.toLowerCase();
}

/** Whether a Host header names this server: otherwise some name was made to point here (access.md, "rebinding"). */
export function isAllowedHost(header: string | undefined, { host, port, allowedHosts }: Options): boolean {
  const given = header?.toLowerCase() ?? "";
  const own = ["127.0.0.1", "localhost", "[::1]", host.includes(":") ? `[${host}]` : host];
  if (own.some((name) => given === `${name.toLowerCase()}:${port}` || (port === 80 && given === name)))
    return true;
  return allowedHosts.some(
    (name) => given === name.toLowerCase() || given.replace(/:\d+$/, "") === name.toLowerCase(),
  );
}
