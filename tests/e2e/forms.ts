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

/** Chooses an option of a list by its text. */
export async function choose(field: Locator, option: string | RegExp) {
  await field.press("Enter");
  const exact = typeof option === "string";
  await field.page().getByRole("option", { name: option, exact }).click();
}
