import { expect, type Response, test } from "@playwright/test";
import { ready, unopenedPlan } from "./plan.ts";

// What a browser loads before it can show a page. How much that is, is held here: it is read by every visitor.

/** The most that the scripts of a page may come to, in bytes, before they are compressed. */
const MAX_SCRIPT = 1_000_000;
/** The most files: a request for each small piece costs more than the piece. */
const MAX_FILES = 45;

test("a page loads few files and little, compressed and kept for good", async ({ page }) => {
  const plan = await unopenedPlan(page);
  const answers: Response[] = [];
  page.on("response", (answer) => {
    if (new URL(answer.url()).pathname.startsWith("/assets/")) answers.push(answer);
  });
  await page.goto(`${plan}/map`);
  await ready(page);
  const scripts = answers.filter(
    (answer) => answer.url().endsWith(".js") && !answer.url().includes(".worker"),
  );
  expect(scripts.length).toBeGreaterThan(3);
  expect(answers.length).toBeLessThan(MAX_FILES);
  for (const answer of answers) {
    expect(answer.status(), answer.url()).toBe(200);
    expect(answer.headers()["cache-control"], answer.url()).toBe("public, max-age=31536000, immutable");
  }
  let bytes = 0;
  for (const script of scripts) {
    const body = await script.body();
    bytes += body.length;
    // Small files are sent uncompressed.
    if (body.length >= 1024)
      expect(script.headers()["content-encoding"], script.url()).toMatch(/^(br|gzip)$/);
  }
  expect(bytes).toBeLessThan(MAX_SCRIPT);
});

test("a file that there is not is refused in a sentence, and a file takes nothing in", async ({
  request,
}) => {
  const missing = await request.get("/assets/nothing-1234.js");
  expect(missing.status()).toBe(404);
  expect(await missing.text()).toContain("There is no such file.");
  expect(missing.headers()["cache-control"]).toBe("no-store");
  for (const path of ["/assets/..%2f..%2fserve%2fmain.js", "/assets/%2e%2e/server/index.js"])
    expect([400, 404], path).toContain((await request.get(path)).status());
  const page = await (await request.get("/plans")).text();
  const [script] = /\/assets\/[\w.-]+\.js/.exec(page) ?? [];
  expect(script).toBeDefined();
  const plain = await request.get(script as string, { headers: { "Accept-Encoding": "identity" } });
  const small = await request.get(script as string, { headers: { "Accept-Encoding": "gzip" } });
  expect(plain.headers()["content-encoding"]).toBeUndefined();
  expect(small.headers()["content-encoding"]).toBe("gzip");
  expect(small.headers().vary).toContain("Accept-Encoding");
  expect((await small.body()).equals(await plain.body())).toBe(true);
  // A part of a file, also one that makes no sense, is answered too.
  for (const range of ["bytes=0-9", "bytes=9-2", "bytes=x", "bytes=99999999-"]) {
    const part = await request.get(script as string, { headers: { Range: range } });
    expect([200, 206, 400, 416], range).toContain(part.status());
  }
  expect((await request.get("/assets/%E0%A4%A")).status()).toBeLessThan(500);
  expect((await request.post(script as string, { data: "x" })).ok()).toBe(false);
});
