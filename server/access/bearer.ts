/** The token in an Authorization header (RFC 6750, 2.1); null without one. */
export function bearerIn(header: string | undefined): string | null {
  return /^Bearer ([\w-]{1,200})$/i.exec(header ?? "")?.[1] ?? null;
}
