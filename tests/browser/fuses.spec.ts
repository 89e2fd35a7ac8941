import { as, backlot, expect, noor, person, test, visit } from "./people";

test("begun from a kit, armed, and the phone's reply picks a time", async ({ browser, page }) => {
  const marketer = await as(browser, noor);
  await marketer.goto("/fuses/new?client=brackenwheel");
  const kits = marketer.getByRole("list", { name: "Fuses to begin from" });
  await expect(kits.getByRole("listitem")).toHaveCount(10);
  await kits.getByRole("button", { name: /Large and small by fleet size/ }).click();
  await expect(marketer.getByRole("button", { name: "When fleet size is one of 10–24, 25+" })).toBeVisible();
  await kits.getByRole("button", { name: /Offer two times/ }).click();
  await marketer.getByRole("button", { name: "Begin with this" }).click();
  await expect(marketer.getByRole("button", { name: "On silence for 3 h after Offer two times" })).toBeVisible();
  await marketer.getByRole("button", { name: "Arm v1" }).click();
  await expect(marketer.getByText("armed · v1")).toBeVisible();

  try {
    const who = person("4–9");
    await visit(page, who);
    const number = `+44${who.phone.replaceAll(" ", "").slice(1)}`;
    await page.goto(`${backlot}/copperline?phone=${encodeURIComponent(number)}`);
    await expect(page.locator("article").filter({ hasText: "1)" }).first()).toContainText("at 15:00");
    await page.getByLabel(/Write back to/).fill("the second please");
    await page.getByRole("button", { name: "Send" }).click();
    await expect(page.locator("article").filter({ hasText: "Noted: we will ring on" })).toContainText("at 15:00");

    await marketer.goto(`/leads?client=brackenwheel&q=${who.email}`);
    await marketer.getByRole("link", { name: `${who.first} ${who.last}` }).click();
    await expect(marketer.getByText("they chose", { exact: false }).first()).toBeVisible();
    await expect(marketer.getByRole("button", { name: "Take the tag time chosen off" })).toBeVisible();
    await marketer.getByRole("button", { name: "Stop" }).click();
    await expect(marketer.getByText("has burnt down", { exact: false }).first()).toBeVisible();
    await marketer.getByLabel("Stage").selectOption("Spoken");
    await expect(marketer.getByText("set the stage:", { exact: false })).toBeVisible();
  } finally {
    // What it does to others is not these tests' business.
    await marketer.goto("/fuses?client=brackenwheel");
    await marketer.getByRole("link", { name: "Offer two times, take the reply, hand over after silence" }).click();
    await marketer.getByRole("button", { name: "Disarm" }).click();
    await expect(marketer.getByText("disarmed · v1")).toBeVisible();
  }
});

test("words are kept once, and a sheet offers their newer version", async ({ browser }) => {
  const page = await as(browser, noor);
  await page.goto("/setup?client=tarn-valley");
  await page.getByRole("button", { name: "Keep words" }).click();
  await page.getByLabel("Name", { exact: true }).fill("Looking at the diary");
  await page.getByLabel("Words, with fields in them").fill("{{ lead.first_name }}, we look at the diary.");
  await page.getByRole("button", { name: "Keep them" }).click();
  await expect(page.getByText("No fuse uses them yet.")).toBeVisible();
  await page.goto("/fuses?client=tarn-valley");
  await page.getByRole("link", { name: /Date enquiry/ }).click();
  await page.getByRole("button", { name: /Text: looking at the diary/ }).click();
  await page.getByLabel("Take words ready for use").selectOption("looking_at_the_diary");
  await expect(page.getByText("From “Looking at the diary”, version 1.")).toBeVisible();
  await expect(page.getByText(/draft of .* by Noor/)).toBeVisible();

  const setup = await as(browser, noor);
  await setup.goto("/setup?client=tarn-valley");
  await setup.getByRole("button", { name: "A new version" }).click();
  await setup.getByLabel("Words, with fields in them").fill("{{ lead.first_name }}, the diary is open before us.");
  await setup.getByRole("button", { name: "Keep as v2" }).click();
  await expect(setup.getByText("Used by Date enquiry: tell Siobhra, thank them, words v1.")).toBeVisible();
  await page.getByRole("button", { name: "Take version 2" }).click();
  await expect(page.getByLabel("Words", { exact: true })).toHaveValue("{{ lead.first_name }}, the diary is open before us.");
  page.on("dialog", (d) => d.accept());
  await page.getByRole("button", { name: /^Back to v/ }).click();
});
