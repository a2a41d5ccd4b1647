import { spawnSync } from "node:child_process";

import { request } from "node:https";

import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { generate } from "selfsigned";
import { describe, expect, it } from "vitest";
import { readOptions } from "../server/http/options.ts";

const root = fileURLToPath(new URL("../", import.meta.url));

function start(...args: string[]) {
  const { status, stdout, stderr } = spawnSync("bash", ["bin/start", ...args], {
    cwd: root,
    encoding: "utf8",
  });
  return { status, said: `${stdout}${stderr}` };
}

describe("bin/start", () => {
  it.each<[string[], RegExp]>([
    [["--host", "192.0.2.10"], /passwords would go in the clear: serve TLS with --cert FILE and --key FILE/],
    [
      ["--host", "0.0.0.0", "--cert", "/nowhere/cert.pem", "--key", "/nowhere/key.pem"],
      /\/nowhere\/cert\.pem cannot be read/,
    ],
    [["--cert", join(root, "package.json")], /TLS needs both/],
    [["--port", "0"], /from 1 to 65535/],
    [["--frobnicate"], /There is no option --frobnicate/],
  ])("refuses %j, and says actions", (args, why) => {
    const { status, said } = start(...args);
    expect(said).toMatch(why);
    expect(status).toBe(1);
  });

  it("tells its options", () => {
    const { said, status } = start("--help");
    expect(status).toBe(0);
    for (const option of ["--host", "--cert", "--behind-proxy", "--tell", "--read", "--allow-host"])
      expect(said).toContain(option);
  });
});

describe("the server's options", () => {
  it("take both files of TLS or none, and prefixes of proxies", () => {
    expect(readOptions({ BEHIND_PROXY: "192.0.2.0/24, 2001:db8::/32" }).behindProxy).toEqual([
      "192.0.2.0/24",
      "2001:db8::/32",
    ]);
    expect(readOptions({})).toMatchObject({ tls: null, behindProxy: [] });
    expect(() => readOptions({ TLS_CERT: "cert.pem" })).toThrow(/--cert FILE and --key FILE/);
  });
});

describe.skipIf(!process.env.DATABASE_URL)("over TLS", () => {
  it("browsers are told to come by it from then on", async () => {
    const { createServer } = await import("node:https");
    const { makeApp } = await import("../server/http/app.ts");
    const { log } = await import("../server/log.ts");
    log.level = "silent";
    const { cert, private: key } = await generate([{ name: "commonName", value: "localhost" }], {
      algorithm: "sha256",
    });
    const dispatch = {
      answer: async () => ({ status: 200, headers: [], body: new TextEncoder().encode("ok") }),
      load: { quick: { waiting: 0, atWork: 0 }, slow: { waiting: 0, atWork: 0 } },
    };
    const server = createServer({ cert, key });
    await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
    const { port } = server.address() as { port: number };
    server.on(
      "request",
      makeApp(readOptions({ PORT: String(port) }), dispatch as never, new AbortController().signal),
    );
    try {
      const headers = await new Promise<Record<string, unknown>>((done, failed) => {
        const sent = request(
          { port, host: "127.0.0.1", path: "/health", ca: cert, servername: "localhost" },
          (answer) => {
            answer.resume();
            done(answer.headers);
          },
        );
        sent.on("error", failed);
        sent.end();
      });
      expect(headers["strict-transport-security"]).toBe("max-age=31536000");
    } finally {
      server.close();
    }
  });
});
