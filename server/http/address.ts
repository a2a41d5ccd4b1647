/** What a path may consist of (RFC 3986, 3.3), with slashes between its segments. */
const PATH = /^(?:\/(?:[\w.~!$&'()*+,;=:@-]|%[0-9A-Fa-f]{2})*)+$/;

/** Encoded characters that have one other way to be written, or none that a path may hold: RFC 3986, 6.2.2.2. */
const ENCODED =
  /%(?:[01][0-9A-Fa-f]|7[Ff]|2[DEFdef5]|3[0-9]|4[1-9A-Fa-f]|5[0-9AaCcFf]|6[1-9A-Fa-f]|7[0-9AaEe])/;

/**
 * The address of a request, by which access is decided and the request is answered; null if its path is not in normal
 * form. Backslashes, dot segments, empty segments, encoded slashes and control characters have no place in one: whoever
 * resolves them comes to another path than the one that was checked.
 * @param target the request's target (RFC 9112, 3.2.1), such as "/plans/1/map?down=link:a"
 * @param origin such as "https://routes.example:3000"
 */
export function addressOf(target: string, origin: string): URL | null {
  const [path] = target.split("?", 1);
  if (!PATH.test(path) || ENCODED.test(path) || !isText(path)) return null;
  const segments = path.split("/").slice(1);
  // A slash may end a path. Hidden names are served nowhere, and dots that ".data" follows become dot segments.
  if (segments.some((segment, at) => segment.startsWith(".") || (segment === "" && at < segments.length - 1)))
    return null;
  if (!URL.canParse(target, origin)) return null;
  const url = new URL(target, origin);
  return url.pathname === path && url.origin === new URL(origin).origin ? url : null;
}

/** Whether the percent-encoded bytes are UTF-8. */
function isText(path: string): boolean {
  try {
    decodeURIComponent(path);
    return true;
  } catch {
    return false;
  }
}
