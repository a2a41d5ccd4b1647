import { test as base, type Page } from "@playwright/test";

/** A page that a worker process reuses for its tests, as a person would: loaded files stay cached. */
export const test = base.extend<object, { visitor: Page }>({
  visitor: [
    async ({ browser }, use, { project }) => {
      const { baseURL, viewport } = project.use;
      const context = await browser.newContext({ baseURL, viewport });
      await use(await context.newPage());
      await context.close();
    },
    { scope: "worker" },
  ],
});
