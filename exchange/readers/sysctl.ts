import { firstLines, linesOf, type Reader } from "./reader.ts";

const FORWARDING =
  /^\s*(net\.ipv4\.(?:ip_forward|conf\.all\.forwarding)|net\.ipv6\.conf\.all\.forwarding)\s*=\s*([01])\s*$/;

/** Kernel settings as `sysctl` prints them: whether the device forwards. */
export const sysctl: Reader = {
  kind: "kernel settings",
  recognises: ({ text }) =>
    firstLines(text, 200).some((line) => /^net\.ipv[46]\.[^\s=]+\s*=/.test(line.trimStart())) ? 0.9 : 0,
  read(file, into) {
    for (const [i, raw] of linesOf(file, into).entries()) {
      if (raw.trim() === "") continue;
      const at = { file: file.name, line: i + 1, text: raw };
      const found = FORWARDING.exec(raw);
      const check = /^\s*net\.ipv4\.conf\.(\S+)\.rp_filter\s*=\s*([012])\s*$/.exec(raw);
      if (check && check[2] !== "0") {
        const kind = check[2] === "1" ? "strict" : "loose";
        into.fate(
          at,
          "doubtful",
          `a ${kind} return-path check on ${check[1]}: give the device a profile with \`returnPath: ${kind}\``,
        );
        continue;
      }
      if (!found) {
        into.fate(at, "known", "not a forwarding setting");
        continue;
      }
      const family = found[1].startsWith("net.ipv6") ? "ipv6" : "ipv4";
      into.facts.forwarding[family] = found[2] === "1";
      into.fate(
        at,
        "taken",
        `${family === "ipv6" ? "IPv6" : "IPv4"} forwarding is ${found[2] === "1" ? "on" : "off"}`,
      );
    }
  },
};
