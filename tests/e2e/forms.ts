import type { Locator, Page } from "@playwright/test";

/** Fills a form's fields by their labels, as a user would: types into fields, and chooses from lists. */
export async function fill(
  page: Page,
  form: Locator | string,
  values: Record<string, string>,
): Promise<Locator> {
  const within = typeof form === "string" ? page.getByRole("form", { name: form }) : form;
  for (const [label, value] of Object.entries(values)) {
    const field = within.getByLabel(label, { exact: true });
    const isList = await field.evaluate((element) => element.tagName === "BUTTON");
    if (isList) {
      await field.press("Enter");
      await page.getByRole("option", { name: value, exact: true }).click();
    } else await field.fill(value);
  }
  return within;
}
