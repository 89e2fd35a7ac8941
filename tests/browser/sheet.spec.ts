import { expect, noor, test } from "./people";

test.beforeEach(async ({ page }) => {
  const answer = await page.request.post("/api/session", { data: { email: noor, password: "strike-a-light-5080" } });
  expect(answer.ok()).toBe(true);
  await page.goto("/fuses?client=brackenwheel");
  await page.getByRole("link", { name: "Running-cost sheet: tell the desk" }).click();
  await expect(page.getByRole("table", { name: "Run sheet" })).toBeVisible();
});

test("words are edited with a live preview, saved as a draft, and armed as the next version", async ({ page }) => {
  await page.getByRole("button", { name: /Post to the ride desk/ }).click();
  const words = page.getByLabel("Words", { exact: true });
  await expect(page.getByRole("status", { name: "Preview" })).toContainText("wants the running-cost sheet");
  await words.fill("Costs for ");
  await page.getByRole("group", { name: "Put a field in" }).getByRole("button", { name: "email" }).click();
  await expect(words).toHaveValue("Costs for {{ lead.email }}");
  await expect(page.getByRole("status", { name: "Preview" })).toContainText(/Costs for \S+@example/);
  await page.getByRole("button", { name: "An older lead" }).click();
  await expect(page.getByText(/^2 of/)).toBeVisible();

  await page.keyboard.press("Control+s");
  await expect(page.getByText(/draft of .* by Noor/)).toBeVisible();
  await expect(page.getByText("draft differs")).toBeVisible();
  await page.reload();
  await expect(page.getByLabel("Words", { exact: true })).toHaveValue("Costs for {{ lead.email }}");
  const arm = page.getByRole("button", { name: /^Arm v/ });
  const label = (await arm.textContent()) ?? "";
  await arm.click();
  await expect(page.getByText(`armed · ${label.replace("Arm ", "")}`)).toBeVisible();
});

test("an entry is a sentence that can be changed, and what is wrong leads to its place", async ({ page }) => {
  await page.getByRole("button", { name: "Add a band" }).click();
  await expect(page.getByRole("complementary", { name: "A new case" })).toBeVisible();
  await page.getByRole("button", { name: "Add a rule" }).click();
  await page.getByLabel("25+").check();
  await expect(page.getByRole("button", { name: "When fleet size is 25+" })).toBeVisible();
  await page.getByRole("button", { name: "Save draft" }).click();
  await page.getByRole("button", { name: "What's wrong: 1" }).click();
  await expect(page.getByText("Nothing happens in 'A new case'.")).toBeVisible();
  await page.getByRole("button", { name: /^Arm v/ }).click();
  await expect(page.getByText("The fuse has faults and cannot be armed.")).toBeVisible();
  await page.getByRole("button", { name: "Go there" }).click();
  await expect(page.getByRole("complementary", { name: "A new case" })).toBeVisible();

  await page.getByRole("button", { name: "Add a step to A new case" }).click();
  await page.getByRole("button", { name: "Text to the lead" }).click();
  await page.getByLabel("It is done, after the band lit").selectOption("5 min");
  await page.getByRole("button", { name: "Save draft" }).click();
  await expect(page.getByRole("button", { name: "What's wrong: 0" })).toBeVisible();
  page.on("dialog", (d) => d.accept());
  await page.getByRole("button", { name: /^Back to v/ }).click();
  await expect(page.getByText("A new case")).toHaveCount(0);
});

test("every edit can be undone and done again by keyboard", async ({ page }) => {
  const name = page.getByLabel("What the fuse does");
  await name.fill("Costs: tell everyone");
  await name.press("Control+z");
  await expect(name).toHaveValue("Running-cost sheet: tell the desk");
  await name.press("Control+Shift+z");
  await expect(name).toHaveValue("Costs: tell everyone");
  await name.press("Control+z");
  await expect(page.getByRole("button", { name: "Save draft" })).toBeDisabled();
});

test("who saved meanwhile is named and nothing is saved over them", async ({ page, browser }) => {
  await page.getByRole("button", { name: /Post to the ride desk/ }).click();
  await page.getByLabel("Name, as the story tells it").fill("Mine");
  const other = await browser.newContext({ storageState: await page.context().storageState() });
  const theirs = await other.newPage();
  await theirs.goto(page.url());
  await theirs.getByLabel("Name, as the story tells it").fill("Theirs");
  await theirs.getByRole("button", { name: "Save draft" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "saved this fuse after you opened it" })).toBeVisible();
  await page.getByRole("button", { name: "Load theirs; mine is dropped" }).click();
  await expect(page.getByLabel("Name, as the story tells it")).toHaveValue("Theirs");
  page.on("dialog", (d) => d.accept());
  await page.getByRole("button", { name: /^Back to v/ }).click();
  await expect(page.getByText("draft differs")).toHaveCount(0);
});
