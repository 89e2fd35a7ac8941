import { expect, noor, test } from "./people";

test.beforeEach(async ({ page }) => {
  const answer = await page.request.post("/api/session", { data: { email: noor, password: "strike-a-light-5080" } });
  expect(answer.ok()).toBe(true);
  await page.goto("/fuses?client=brackenwheel");
  await page.getByRole("link", { name: "Running-cost sheet: tell the desk" }).click();
  await expect(page.getByRole("group", { name: "Run sheet" })).toBeVisible();
});

test("words are edited with a live preview, saved as a draft, and armed as the next version", async ({ page }) => {
  await page.getByRole("button", { name: /Post to the ride desk/ }).click();
  const words = page.getByLabel("Words", { exact: true });
  await expect(page.getByRole("status", { name: "Preview" })).toContainText("wants the running-cost sheet");
  await words.fill("Costs for ");
  await page.getByRole("button", { name: "Put a field in" }).first().click();
  await page.getByLabel("Search the fields").fill("email");
  await page
    .getByRole("group", { name: "Put a field in" })
    .getByRole("button", { name: /^email \S+@example/ })
    .click();
  await expect(words).toHaveValue("Costs for {{ lead.email }}");
  await expect(page.getByRole("status", { name: "Preview" })).toContainText(/Costs for \S+@example/);
  await page.getByRole("button", { name: "An older lead" }).click();
  await expect(page.getByText(/^2 of/)).toBeVisible();

  // It is kept by itself.
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
  await page.getByRole("button", { name: "What's wrong: 1" }).click();
  await expect(page.getByText("Nothing happens in 'A new case'.")).toBeVisible();
  await page.getByRole("button", { name: /^Arm v/ }).click();
  await expect(page.getByText("The fuse has faults and cannot be armed.")).toBeVisible();
  await page.getByRole("button", { name: "Go there" }).click();
  await expect(page.getByRole("complementary", { name: "A new case" })).toBeVisible();

  await page.getByRole("button", { name: "Add a step to A new case" }).click();
  await page.getByRole("button", { name: "Text to the lead" }).click();
  await page.getByLabel("It is done, after the band lit").selectOption("5 min");
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
  // Back at what is armed, it is no draft.
  await expect(page.getByText(/^armed \d/)).toBeVisible();
  await expect(page.getByText("draft differs")).toHaveCount(0);
});

test("who saved meanwhile is named and nothing is saved over them", async ({ page, browser }) => {
  await page.getByRole("button", { name: /Post to the ride desk/ }).click();
  const other = await browser.newContext({ storageState: await page.context().storageState() });
  const theirs = await other.newPage();
  await theirs.goto(page.url());
  // Both write at once: mine is on its way while theirs is kept.
  let letGo = () => {};
  const kept = new Promise<void>((then) => {
    letGo = then;
  });
  await page.route("**/api/fuses/*/draft", async (route) => {
    await kept;
    await route.continue();
  });
  await page.getByLabel("Name, as the story tells it").fill("Mine");
  await theirs.getByLabel("Name, as the story tells it").fill("Theirs");
  await expect(theirs.getByText(/draft of .* by Noor/)).toBeVisible();
  letGo();
  await expect(page.getByRole("alert").filter({ hasText: "saved this fuse after you opened it" })).toBeVisible();
  await page.unroute("**/api/fuses/*/draft");
  await page.getByRole("button", { name: "Load theirs; mine is dropped" }).click();
  await expect(page.getByLabel("Name, as the story tells it")).toHaveValue("Theirs");
  page.on("dialog", (d) => d.accept());
  await page.getByRole("button", { name: /^Back to v/ }).click();
  await expect(page.getByText("draft differs")).toHaveCount(0);
  await other.close();
});

test("a fuse is run dry: what is said, when, and what a reply changes", async ({ page }) => {
  await page.goto("/fuses?client=brackenwheel");
  await page.getByRole("link", { name: /^Test ride/ }).click();
  await page.getByRole("button", { name: "Dry run" }).click();
  const panel = page.getByRole("complementary", { name: "Dry run" });
  await panel.getByLabel("With the answers of").selectOption("typed");
  await panel.getByLabel("On the form").selectOption({ label: "Book a test ride" });
  await panel.getByLabel("First name").fill("Quill");
  await panel.getByLabel("Mobile number").fill("07700 900123");
  await panel.getByLabel("How many bikes", { exact: false }).selectOption("25+");
  await panel.getByLabel("They ask, on London's clock").fill("2026-11-24T23:10");
  const moments = panel.getByRole("list", { name: "What happens" });
  await expect(moments).toContainText("waits for send hours: Wednesday 08:00 in Europe/London");
  await expect(moments).toContainText("Quill, ");
  await expect(page.getByRole("button", { name: /^Text: someone is on it/ })).toContainText("sent 08:00:00");

  // They write back before it opens: nothing more is said to them.
  await panel.getByLabel("Add something that happens").selectOption({ label: "they reply" });
  await panel.getByLabel("They write").fill("no thanks, I have found one");
  await expect(moments).toContainText("They reply: no thanks");
  await expect(page.getByRole("button", { name: /^Text: someone is on it/ })).toContainText("left out");
  await panel.getByRole("button", { name: "To the start" }).click();
  await expect(page.getByRole("button", { name: /^Text: someone is on it/ })).toContainText("not yet");
  await panel.getByRole("button", { name: "Next moment" }).click();
  await expect(moments.getByRole("listitem").first()).toContainText("band lit");
});

test("versions are compared, and one is brought back", async ({ page }) => {
  page.on("dialog", (d) => d.accept());
  await page.getByRole("button", { name: /Post to the ride desk/ }).click();
  await page.getByLabel("Words", { exact: true }).fill("Another wording for {{ lead.name }}");
  await expect(page.getByText(/draft of .* by Noor/)).toBeVisible();
  const arm = page.getByRole("button", { name: /^Arm v/ });
  const number = ((await arm.textContent()) ?? "").replace("Arm v", "");
  await arm.click();
  await expect(page.getByText(`armed · v${number}`)).toBeVisible();
  await page.getByRole("button", { name: "Versions", exact: true }).click();
  const panel = page.getByRole("complementary", { name: "Versions" });
  const newest = panel
    .getByRole("list", { name: "Versions" })
    .getByRole("listitem")
    .filter({ hasText: `v${number}` })
    .first();
  await expect(newest).toContainText("Another wording for {{ lead.name }}");
  await panel.getByRole("button", { name: "Bring back as a draft" }).first().click();
  await expect(page.getByText("draft differs")).toBeVisible();
  await expect(panel.getByText("The draft against what is armed")).toBeVisible();
  await page.getByRole("button", { name: /^Back to v/ }).click();
  await expect(page.getByText("draft differs")).toHaveCount(0);
});
