import { type Ask, fileOf } from "../asking.ts";
import { NotRead } from "../failure.ts";
import { Connection } from "./ssh-client.ts";

/** What a Linux machine is asked: commands that only read, their answers as files that the readers know. */
const commands: readonly { file: string; command: string; needed: boolean }[] = [
  { file: "address.json", command: "ip -j -d address", needed: true },
  { file: "route4.json", command: "ip -j -4 route show table all", needed: true },
  { file: "route6.json", command: "ip -j -6 route show table all", needed: false },
  { file: "rule4.json", command: "ip -j -4 rule", needed: false },
  { file: "rule6.json", command: "ip -j -6 rule", needed: false },
  { file: "neighbour.json", command: "ip -j neighbour", needed: false },
  { file: "netconf.json", command: "ip -j netconf", needed: false },
  { file: "ruleset.json", command: "nft -j list ruleset", needed: false },
];

const MARK = "iron-fork-part";

/** All commands in one: before each a line with its number, behind it one with its exit code. */
const script = commands
  .map(
    ({ command }, n) =>
      `echo; echo ${MARK} ${n}; ${command} 2>/dev/null; code=$?; echo; echo ${MARK} end $code`,
  )
  .join("; ");

/** What each command wrote, and its exit code; null for one of which nothing came. */
export function partsOf(text: string): ({ text: string; code: number } | null)[] {
  const parts: ({ text: string; code: number } | null)[] = commands.map(() => null);
  let open: { number: number; lines: string[] } | null = null;
  for (const line of text.split("\n")) {
    const words = line.startsWith(MARK) ? line.split(" ") : [];
    if (open && words[1] === "end" && words.length === 3) {
      if (open.number in parts) parts[open.number] = { text: open.lines.join("\n"), code: Number(words[2]) };
      open = null;
    } else if (words.length === 2) open = { number: Number(words[1]), lines: [] };
    else open?.lines.push(line);
  }
  return parts;
}

/** Reads a Linux machine over SSH by iproute2's and nftables' JSON, all in one go. */
export const askBySsh: Ask = async (asking) => {
  const connection = await Connection.open(asking);
  try {
    asking.tell("requesting addresses, routes and neighbors");
    const parts = partsOf((await connection.run(script, "the commands")).text);
    const files = [];
    for (const [n, { file, command, needed }] of commands.entries()) {
      const part = parts[n];
      if (needed && (part === null || part.code !== 0)) {
        const how = part === null ? "the answer does not come from a shell" : `exit code ${part.code}`;
        throw new NotRead(`command "${command}" failed (${how}): the device may not run Linux`, false);
      }
      if (part?.code === 0 && part.text.trim() !== "")
        files.push(fileOf(asking.target, file, part.text.trim()));
    }
    return files;
  } finally {
    connection.end();
  }
};
