import { type Prefix, parseAddress, parsePrefix, prefixOf } from "../../../core/address/index.ts";
import { readPrefix, type Token } from "./tokens.ts";
import { plain } from "./vocabulary.ts";

/** The spaces in front of a line. */
export const indentOf = (text: string) => text.length - text.trimStart().length;

export const isFrame = (line: string) => /^[\s|+=*:_─━│┼┌┐└┘├┤┬┴#~-]+$/.test(line);

/** A prompt with its command, or alone: "tern-edge# show", "ann@tern:~$ ip", "[ann@tern ~]$". */
const PROMPT =
  /^\s{0,3}(?:[[<(]{1,2})?(?:[\w.-]{1,40}@)?([A-Za-z][\w.-]{1,62})(?:[:~ ][\w/~.-]{0,60})?(?:[\])]{1,2})?(?:\([\w./-]{1,40}\))?\s?(?:[#$%](?=\s|$|[a-z])|>(?=\s?[a-z]|\s*$))(.*)$/;

/** The device and the command of a prompt; null for other lines. */
export function promptIn(line: string): { device: string; command: string } | null {
  const match = PROMPT.exec(line.slice(0, 300));
  if (!match) return null;
  const command = match[2].trim();
  // A table may have marks behind its codes: a command begins with a letter, and is no address.
  if (command !== "" && !/^[A-Za-z/.]/.test(command)) return null;
  const [first] = command.split(/\s+/);
  if (first && (parseAddress(first) || readPrefix(first))) return null;
  return { device: match[1], command };
}

/** Words that may precede "vrf" in a heading, and follow it before the name. */
const BEFORE_VRF = new Set(
  "routing route routes forwarding ip ipv4 ipv6 table tables instance for of in the name showing rib fib".split(
    " ",
  ),
);
const BEHIND_VRF = new Set(["name", "table", "instance", "id", "is"]);
const MAIN = /^(?:default|main|global|master|base|none)$/i;

/** The VRF in a heading such as "VRF: red", "Routing table for VRF red:" or "Routing instance red"; null for other lines.
 * The main VRF is "". */
export function vrfHeadIn(line: string): string | null {
  if (!/vrf|instance|table|routing domain/i.test(line) || line.length > 120) return null;
  const words = line
    .split(/[\s:="'()[\],]+/)
    .map((word) => word.replace(/^[^A-Za-z0-9]{1,20}|[-=*#.]{1,20}$/g, ""))
    .filter((word) => word !== "");
  const at = words.findIndex((word) => /^(?:vrf|instance|domain)$/i.test(word));
  if (at < 0 || !words.slice(0, at).every((word) => BEFORE_VRF.has(word.toLowerCase()))) return null;
  const behind = words.slice(at + 1);
  while (behind.length > 1 && BEHIND_VRF.has(behind[0].toLowerCase())) behind.shift();
  const [name, ...more] = behind;
  const isAlone = more.every(
    (word) => BEFORE_VRF.has(word.toLowerCase()) || /^(?:routing|table|vrf|routes?)$/i.test(word),
  );
  if (name === undefined || !isAlone || !/^[A-Za-z0-9][\w.-]*$/.test(name)) return null;
  return MAIN.test(name) ? "" : name;
}

/** Whether a line is the heading of an interface's block: "interface wan1", "Port: lan". */
export function isPortHead(tokens: readonly Token[]): boolean {
  const [word, name] = tokens;
  return (
    tokens.length === 2 &&
    name.shape !== "symbol" &&
    /^(?:interface|port|iface|link|device|schnittstelle|interfaz|interfaccia)$/.test(plain(word.text))
  );
}

/** The prefix in a heading that divides it into subnets: "10.1.0.0/24 is subnetted, 3 subnets"; null for other lines. */
export function dividedPrefixIn(line: string, tokens: readonly Token[]): Prefix | null {
  if (!/subnet(?:s\b|ted\b|ze\b)|teilnetze|sous-reseaux|subredes|sottoreti|sub-redes/i.test(plain(line)))
    return null;
  const prefixes = tokens.filter(({ shape }) => shape === "prefix");
  if (prefixes.length !== 1 || tokens.some(({ shape }) => shape === "address")) return null;
  const read = readPrefix(prefixes[0].text);
  return read && prefixOf(read.address, read.length);
}

/** Whether a line begins with a date, or with a time of day, as log lines do. */
export const isDated = (line: string) =>
  /^\W{0,3}(?:<\d{1,3}>)?(?:\d{4}[-/]\d{2}[-/]\d{2}|\d{1,2}[/.]\d{1,2}[/.]\d{2,4}\s+\d{1,2}:\d{2}|(?:mon|tue|wed|thu|fri|sat|sun)\w{0,6},?\s+\w{3}|(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]{0,6}\s+\d{1,2}\b|\d{1,2}:\d{2}:\d{2}[.,]?\d{0,6}\s)/i.test(
    line,
  );

/** Words of filters, translations and logs: a line with one of them is no route. */
const OTHER_MATTERS =
  /(?:^|[\s,;:|(])(?:permit|permitted|deny|denied|allow|allowed|access-list|prefix-list|nat|masquerade|snat|dnat|translate|inside|outside|received|sent|src|sport|dport|established|listen|ping|traceroute|area|neighbor|remote-as|lease|pool|range|dhcp-server|aggregate-address|summary-address|advertise|redistribute|announced)(?=$|[\s,;:|)=])/i;
export const isOtherMatter = (line: string) => OTHER_MATTERS.test(line);

/** Whether an address has no host bits under a length. */
export const isNetwork = (text: string, length: number) => parsePrefix(`${text}/${length}`) !== null;
