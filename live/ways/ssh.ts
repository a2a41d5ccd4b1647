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

/** Reads a Linux machine over SSH by iproute2's and nftables' JSON. */
export const askBySsh: Ask = async (asking) => {
  const connection = await Connection.open(asking);
  try {
    const files = [];
    for (const { file, command, needed } of commands) {
      asking.tell(command);
      const { text, code } = await connection.run(command);
      if (code !== 0 && needed)
        throw new NotRead(
          `it does not know "${command}" (exit code ${code}): it may be no Linux machine`,
          false,
        );
      if (code === 0 && text.trim() !== "") files.push(fileOf(asking.target, file, text));
    }
    return { files, proof: connection.proof };
  } finally {
    connection.end();
  }
};
