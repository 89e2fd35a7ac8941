import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { as, backlot, expect, noor, person, test, visit } from "./people";

/** An empty fuse of Brackenwheel's, by its page. */
async function begun(page: Page) {
  await page.goto("/fuses/new?client=brackenwheel");
  await page.getByRole("button", { name: "Begin with nothing" }).click();
  await expect(page.getByLabel("What the fuse does")).toBeVisible();
}
const kept = (page: Page) => expect(page.getByText(/draft of .* by Noor/)).toBeVisible();
const sheet = (page: Page, name: string) => page.getByRole("complementary", { name });

test("built from empty with the mouse: two times offered, one reminder, a hand-over; it burns as it was drawn", async ({
  browser,
  page: visitor,
}) => {
  const page = await as(browser, noor);
  await begun(page);
  await page.getByRole("button", { name: "Add a step to Always" }).click();
  await page.getByRole("button", { name: "Text to the lead" }).click();
  await sheet(page, "Text to the lead").getByLabel("Name, as the story tells it").fill("Offer two times");
  await page.getByLabel("Words", { exact: true }).fill("When may we ring? {{ choices }}");
  await page.getByLabel("They may choose from, one a line").fill("Tuesday 10:00\nWednesday 15:00");

  await page.getByRole("button", { name: "Add a band" }).click();
  await sheet(page, "A new case").getByLabel("It is entered").selectOption({ label: "on an event: a reply, a tag, a stage …" });
  await page.getByRole("button", { name: "Add a step to They replied" }).click();
  await page.getByRole("button", { name: "Post in a channel" }).click();
  await sheet(page, "Post in a channel").getByLabel("Words", { exact: true }).fill("{{ lead.name }} answered: {{ reply.text }}");

  await page.getByRole("button", { name: "Add a band" }).click();
  await sheet(page, "A new case").getByLabel("It is entered").selectOption({ label: "on silence for a time after a step" });
  await expect(page.getByRole("button", { name: /On silence for 2 h after Offer two times/ })).toBeVisible();
  await page.getByRole("button", { name: "Add a step to No reply" }).click();
  await page.getByRole("button", { name: "Text to the lead" }).click();
  await sheet(page, "Text to the lead").getByLabel("Name, as the story tells it").fill("One reminder");
  await page.getByLabel("Words", { exact: true }).fill("Still glad to ring you.");

  await page.getByRole("button", { name: "Add a band" }).click();
  await sheet(page, "A new case").getByLabel("It is entered").selectOption({ label: "on silence for a time after a step" });
  await page.getByLabel("After this step was done").selectOption({ label: "One reminder" });
  await sheet(page, "No reply").getByLabel("Name, as the story tells it").fill("Hand over");
  await page.getByRole("button", { name: "Add a step to Hand over" }).click();
  await page.getByRole("button", { name: "Post to a person" }).click();
  await sheet(page, "Post to a person").getByLabel("Name, as the story tells it").fill("Tell a person");
  await page.getByLabel("Words", { exact: true }).fill("{{ lead.name }} does not answer. {{ lead.link }}");

  // A ticket is dragged to another moment of its band, and undone.
  const ticket = page.getByRole("button", { name: /^Tell a person/ });
  const handOver = page.getByRole("region", { name: "Hand over" });
  await ticket.dragTo(handOver.locator("[data-track]").last());
  await expect(handOver.getByRole("listitem")).toContainText("10 s");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(handOver.getByRole("listitem")).toContainText("at once");
  await kept(page);
  await expect(page.getByRole("button", { name: /^What's wrong: 0/ })).toBeVisible();
  await page.getByRole("button", { name: "Arm v1" }).click();
  await expect(page.getByText("armed · v1")).toBeVisible();
  try {
    const who = person("4–9");
    await visit(visitor, who);
    const number = `+44${who.phone.replaceAll(" ", "").slice(1)}`;
    await visitor.goto(`${backlot}/copperline?phone=${encodeURIComponent(number)}`);
    await expect(visitor.locator("article").filter({ hasText: "2) Wednesday 15:00" })).toBeVisible();
    await visitor.getByLabel(/Write back to/).fill("what does it cost?");
    await visitor.getByRole("button", { name: "Send" }).click();

    // The burn, step by step, beside the sheet and by itself.
    await page.getByRole("button", { name: "Burns", exact: true }).click();
    await sheet(page, "Burns")
      .getByRole("link", { name: `${who.first} ${who.last}` })
      .click();
    const burn = sheet(page, `${who.first} ${who.last}'s burn`);
    await expect(burn.getByText("When may we ring?", { exact: false })).toBeVisible();
    await expect(burn.getByText("what does it cost?", { exact: false }).first()).toBeVisible();
    await expect(burn.getByText("question", { exact: false }).first()).toBeVisible();
  } finally {
    await page.goto("/fuses?client=brackenwheel");
    page.on("dialog", (d) => d.accept());
    await page
      .getByRole("link", { name: /text the lead/ })
      .first()
      .click();
    await page.getByRole("button", { name: "Disarm" }).click();
    await expect(page.getByText("disarmed · v1")).toBeVisible();
  }
});

test("built with keys alone, with a rule on a field of the client's own; moved, copied, undone", async ({ browser }) => {
  const page = await as(browser, noor);
  await begun(page);
  const press = async (name: string | RegExp) => {
    await page.getByRole("button", { name }).first().focus();
    await page.keyboard.press("Enter");
  };
  await press("Add a band");
  await page.keyboard.press("Tab");
  await press("Add a rule");
  await page.getByLabel("Field", { exact: true }).focus();
  await page.keyboard.type("cargo");
  await page.keyboard.press("Enter");
  await page.getByLabel("food").focus();
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: /^When cargo is food/ })).toBeVisible();
  await press("Add a step to A new case");
  await press("Text to the lead");
  await page.getByLabel("Words", { exact: true }).focus();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("Food needs a cool box, ");
  await press("Put a field in");
  await page.keyboard.type("first name");
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("Words", { exact: true })).toHaveValue(/cool box, \{\{ lead\.first_name/);

  const ticket = page.getByRole("button", { name: /^Text to the lead/ }).first();
  await ticket.focus();
  await page.keyboard.press("Alt+ArrowRight");
  await page.keyboard.press("Alt+ArrowRight");
  await expect(page.getByRole("status").filter({ hasText: "Text to the lead: 20 s, in A new case" })).toHaveCount(1);
  await page.keyboard.press("Control+c");
  await page.keyboard.press("Control+v");
  await expect(page.getByRole("button", { name: /^Text to the lead/ })).toHaveCount(2);
  await page.keyboard.press("Alt+ArrowUp");
  await expect(page.getByRole("status").filter({ hasText: "in Always" })).toHaveCount(1);
  await page.keyboard.press("Control+z");
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("button", { name: /^Text to the lead/ })).toHaveCount(1);
  await kept(page);
});

test("a backtest counts past leads through the draft, beside what happened, and each number opens its leads", async ({ browser }) => {
  const page = await as(browser, noor);
  await page.goto("/fuses?client=brackenwheel");
  await page.getByRole("link", { name: /^Test ride/ }).click();
  await page.getByRole("button", { name: "Backtest" }).click();
  const panel = sheet(page, "Backtest");
  await panel.getByLabel("The period").selectOption("90");
  await panel.getByLabel("A text's segment costs").fill("0.04");
  await panel.getByRole("button", { name: "Put them through" }).click();
  const sent = panel
    .getByRole("row", { name: /^Post to the ride desk/ })
    .getByRole("button")
    .first();
  await expect(sent).toBeVisible({ timeout: 30_000 });
  const count = (await sent.textContent()) ?? "";
  await expect(page.getByRole("button", { name: /^Post to the ride desk/ })).toContainText(`◆ ${count}`);
  await expect(panel.getByRole("row", { name: /they cost/ })).toContainText("£");
  await sent.click();
  await expect(panel.getByText("“Post to the ride desk” goes out, as it stands", { exact: false })).toContainText(
    count === "1" ? "1 lead" : `${count} leads`,
  );
  const lead = panel.getByRole("list", { name: "Leads behind the number" }).getByRole("link").first();
  const name = (await lead.textContent()) ?? "";
  await lead.click();
  await expect(page.getByRole("heading", { name, level: 1 })).toBeVisible();
  await page.goBack();
  await panel.getByRole("button", { name: "Back to the figures" }).click();
  await expect(sent).toBeVisible();
  await panel.getByRole("button", { name: "Another backtest" }).click();
  await expect(panel.getByText("Earlier ones")).toBeVisible();
});

test("a fuse goes out as a file and comes in again, into another sheet", async ({ browser }) => {
  const page = await as(browser, noor);
  await page.goto("/fuses?client=brackenwheel");
  await page.getByRole("link", { name: /^Test ride/ }).click();
  const [out] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "As a file" }).click()]);
  const text = await readFile(await out.path(), "utf8");
  expect(JSON.parse(text).$schema).toContain("/schemas/fuse.json");
  const schema = await page.request.get("/schemas/fuse.json");
  expect((await schema.json()).title).toBe("A fuse of Lit Fuse");
  await begun(page);
  const file = {
    name: "changed.fuse.json",
    mimeType: "application/json",
    buffer: Buffer.from(text.replace(/"name": "Test ride[^"]*"/, '"name": "From a file"')),
  };
  await page.getByLabel("From a file").setInputFiles(file);
  await expect(page.getByLabel("What the fuse does")).toHaveValue("From a file");
  await expect(page.getByRole("button", { name: /^Post to the ride desk/ })).toBeVisible();
  await page.getByLabel("From a file").setInputFiles({ ...file, buffer: Buffer.from('{"bands": 3}') });
  await expect(page.getByText("The file cannot be read", { exact: false })).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("button", { name: /^Post to the ride desk/ })).toHaveCount(0);
});

test("everything is held for a client with one press, said on every page, and let go", async ({ browser }) => {
  const page = await as(browser, noor);
  page.on("dialog", (d) => d.accept());
  await page.goto("/fuses?client=tarn-valley");
  await page.getByRole("button", { name: "Hold everything" }).click();
  const banner = page.getByRole("status").filter({ hasText: "Everything is held for Tarn Valley" });
  await expect(banner).toContainText("by Noor");
  await page.goto("/leads");
  await expect(banner).toBeVisible();
  await page.goto("/leads?client=brackenwheel");
  await expect(page.getByRole("heading", { name: "Leads" })).toBeVisible();
  await expect(banner).toHaveCount(0);
  await page.goto("/?client=tarn-valley");
  await banner.getByRole("button", { name: "Let it go on" }).click();
  await expect(banner).toHaveCount(0);
});

test("who else looks at the sheet is named, and arming for earlier leads says what it would do", async ({ browser }) => {
  const page = await as(browser, noor);
  await page.goto("/fuses?client=brackenwheel");
  await page.getByRole("link", { name: /^Running-cost sheet/ }).click();
  await expect(page.getByRole("group", { name: "Run sheet" })).toBeVisible();
  const lucan = await as(browser, "lucan@quillonstreet.example");
  await lucan.goto(page.url());
  await expect(lucan.getByText("also here: Noor Abernathy-Voss")).toBeVisible();
  await expect(page.getByText(/also here: Lucan/)).toBeVisible();
  await lucan.goto("/");
  await expect(page.getByText(/also here/)).toHaveCount(0);
  await page.getByRole("button", { name: "Arm it also for who asked before" }).click();
  const panel = sheet(page, "Arm it, also for who asked before");
  await panel.getByLabel("Who asked in the last").selectOption("90");
  await expect(panel.getByText(/of \d+ leads? would light it now/)).toBeVisible();
});
