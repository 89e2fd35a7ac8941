import { as, backlot, expect, noor, person, test, visit } from "./people";

test("a ledger is connected with a permission missing, mended by another key, and refused to be taken out while it is used", async ({
  browser,
  page,
}) => {
  const token = async (...without: string[]) => {
    await page.goto(`${backlot}/ledgerhouse/tokens`);
    for (const words of without) await page.getByLabel(words).uncheck();
    await page.getByRole("button", { name: "Make a token" }).click();
    return (await page.locator("#token").textContent()) ?? "";
  };
  const marketer = await as(browser, noor);
  marketer.on("dialog", (d) => d.accept());
  await marketer.goto("/setup?client=tarn-valley");
  await marketer.getByRole("button", { name: "Connect a service" }).click();
  await marketer.getByRole("radio", { name: "Ledgerhouse" }).click();
  await expect(marketer.getByText("Open “Tokens for programs”", { exact: false })).toBeVisible();
  await marketer.getByLabel("Name of your own").fill("The other ledger");
  await marketer.getByLabel("Address", { exact: true }).fill(backlot);
  await marketer.getByLabel("Token", { exact: true }).fill("wrong");
  await marketer.getByRole("button", { name: "Try it and keep it" }).click();
  await expect(marketer.getByText("answered 401", { exact: false })).toBeVisible();
  await marketer.getByLabel("Token", { exact: true }).fill(await token("read and write deals"));
  await marketer.getByRole("button", { name: "Try it and keep it" }).click();
  const line = marketer.getByRole("group", { name: "The other ledger of Tarn Valley" });
  await expect(line.getByText("“read and write deals” was not given", { exact: false })).toBeVisible();

  await line.getByRole("button", { name: "New key" }).click();
  await line.getByLabel("Token", { exact: true }).fill(await token());
  await line.getByRole("button", { name: "Try it and use it from now on" }).click();
  await expect(line.getByText("access whole")).toBeVisible();
  await line.getByRole("button", { name: "Take out" }).click();
  await expect(line).toHaveCount(0);

  const ours = await as(browser, noor);
  ours.on("dialog", (d) => d.accept());
  await ours.goto("/setup?client=brackenwheel");
  const chat = ours.getByRole("group", { name: "Ridgeboard of Brackenwheel" });
  await chat.getByRole("button", { name: "Take out" }).click();
  await expect(chat.getByText("Armed fuses send through it", { exact: false })).toBeVisible();
});

test("a lead goes into ledger, sheet and tickets from one fuse, and the post has the ticket's link", async ({ browser, page }) => {
  const marketer = await as(browser, noor);
  await marketer.goto("/fuses?client=brackenwheel");
  await marketer.getByRole("link", { name: /^Test ride/ }).click();
  await marketer.getByRole("button", { name: "Add a step to Always" }).click();
  await marketer.getByRole("group", { name: "Systems" }).getByRole("button", { name: "Contact in Ledgerhouse" }).click();
  await marketer.getByRole("button", { name: /Fill what fits/ }).click();
  await expect(marketer.getByLabel("Fleet size", { exact: true })).toHaveValue("fleet_size");
  await marketer.getByLabel("Owner there", { exact: true }).selectOption("Imke Sandoval");
  await marketer.getByRole("button", { name: "Close" }).click();

  await marketer.getByRole("button", { name: "Add a step to Always" }).click();
  await marketer.getByRole("group", { name: "Systems" }).getByRole("button", { name: "Row in a sheet" }).click();
  await expect(marketer.getByText("Choose sheet first.")).toBeVisible();
  await marketer.getByLabel("Sheet", { exact: true }).selectOption("Test rides");
  await marketer.getByLabel("Tab", { exact: true }).selectOption("Asked");
  await marketer.getByRole("button", { name: /Fill what fits/ }).click();
  await marketer.getByRole("button", { name: "Close" }).click();

  await marketer.getByRole("button", { name: "Add a step to Always" }).click();
  await marketer.getByRole("group", { name: "Systems" }).getByRole("button", { name: "Ticket in Jobrack" }).click();
  await marketer.getByLabel("Queue", { exact: true }).selectOption("Test rides");
  await marketer.getByLabel("Summary", { exact: true }).fill("Ring {{ lead.name }}");
  await marketer.getByLabel("Due", { exact: true }).fill("{{ now | add_working_days: 2 }}");
  await marketer.getByRole("button", { name: "Close" }).click();
  await marketer.getByRole("button", { name: /^Post to the ride desk/ }).click();
  const words = marketer.getByLabel("Words", { exact: true });
  await marketer.getByRole("button", { name: "Ticket in Jobrack: url" }).click();
  await expect(words).toHaveValue(/\{\{ steps\..+\.url \}\}/);
  const arm = marketer.getByRole("button", { name: /^Arm v\d+$/ });
  const version = (await arm.textContent())?.slice(4) ?? "";
  await arm.click();
  await expect(marketer.getByText(`armed · ${version}`, { exact: true })).toBeVisible();

  const who = person("4–9");
  await visit(page, who);
  await page.goto(`${backlot}/ledgerhouse`);
  await page.getByRole("link", { name: `${who.first} ${who.last}` }).click();
  await expect(page.getByRole("row", { name: "Owner Imke Sandoval" })).toBeVisible();
  await expect(page.getByRole("row", { name: "Fleet size 4–9" })).toBeVisible();
  await page.goto(`${backlot}/gridlet?sheet=rides&tab=asked`);
  await expect(page.getByRole("row").filter({ hasText: who.email })).toContainText("4–9");
  await page.goto(`${backlot}/jobrack`);
  await page.getByRole("row").filter({ hasText: who.last }).getByRole("link").click();
  await expect(page.getByRole("heading", { name: `Ring ${who.first} ${who.last}` })).toBeVisible();
  const address = page.url();
  await page.goto(`${backlot}/ridgeboard?channel=%23ride-desk`);
  await expect(page.locator("article").filter({ hasText: who.email })).toContainText(address);
});
