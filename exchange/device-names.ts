/** File names that describe the content and not the device. */
const generic =
  /^(?:ip-?)?(?:addr(?:ess(?:es)?)?|links?|routes?(?:[-_]?(?:4|6|v4|v6|all))?|rules?|neigh(?:bou?rs?)?|arp|netconf|nft|ruleset|interfaces?|routing|sysctl|forwarding|lldp|walk|facts?|data|table|state|config)(?:[-_.]?[46])?$/i;

/** The device that a file belongs to by its name: the file's name, or its folder's if the file is named after its content. */
export function deviceByName(name: string): string {
  const parts = name.split(/[\\/]/).filter((part) => part !== "" && part !== ".");
  const file = parts.at(-1) ?? "device";
  const base = file.replace(/\.[A-Za-z0-9]+$/, "");
  const folder = parts.at(-2);
  return folder !== undefined && generic.test(base) ? folder : base;
}

/** A prompt in front of a command: "west-router# show routes", "admin@edge-2:~$ ip route". */
const prompt = /^\s{0,3}(?:[\w.-]{1,40}@)?([A-Za-z][\w.-]{0,62})(?:[:~][\w/~.-]{0,60})?\s?[#>$%]\s?[A-Za-z/]/;

/** Lines of a text in which its device's name is looked for. */
const MAX_LINES = 200;

/** The device that a text names itself: in a prompt or in a host name line; "" if it does not. */
export function nameInText(text: string): string {
  const lines = text.slice(0, 20_000).split("\n", MAX_LINES);
  for (const line of lines) {
    const [, name] = prompt.exec(line.slice(0, 300)) ?? [];
    if (name !== undefined) return name;
  }
  for (const line of lines) {
    const words = line.trim().split(" ");
    const name = words.at(-1)?.replaceAll(/[";]/g, "") ?? "";
    if (words.length <= 4 && /^host-?name$/i.test(words.at(-2) ?? "") && /^[A-Za-z][\w.-]{0,62}$/.test(name))
      return name;
  }
  return "";
}
