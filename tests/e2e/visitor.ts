import { test as base, type Page } from "@playwright/test";

/** A page that a worker goes from screen to screen with, as a person would: what it has loaded is not loaded again. */
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
