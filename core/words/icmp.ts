/** What an ICMP error says, by its family, type and code (RFC 792; RFC 4443). */
export function icmpText(family: 4 | 6, type: number, code: number): string {
  const key = `${family} ${type}/${code}`;
  return texts[key] ?? `ICMP type ${type}, code ${code}`;
}

const texts: Readonly<Record<string, string>> = {
  "4 3/0": "network unreachable",
  "4 3/1": "host unreachable",
  "4 11/0": "time to live exceeded",
  "6 1/0": "no route to destination",
  "6 1/3": "address unreachable",
  "6 3/0": "hop limit exceeded",
};
