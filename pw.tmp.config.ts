import base from "./playwright.config.ts";
export default { ...base, expect: { timeout: Number(process.env.XT ?? 7000) }, timeout: 60_000, projects: base.projects?.map((p) => ({ ...p, retries: 0 })) };
