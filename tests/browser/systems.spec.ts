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

test("a lead goes into ledger, sheet, tickets, address book, dial list and a signed event from one fuse, and the post has the ticket's link", async ({
  browser,
  page,
}) => {
  const marketer = await as(browser, noor);
  // Somebody with a number, whom the dial list can be tried with.
  const known = person("4–9");
  await visit(page, known);
  await page.goto(`${backlot}/earwick`);
  const hears = (await page.locator("#address").textContent()) ?? "";
  await marketer.goto("/setup?client=brackenwheel");
  await marketer.getByRole("button", { name: "Connect a service" }).click();
  await marketer.getByRole("radio", { name: "Signed events" }).click();
  await marketer.getByLabel("Address that events are posted to").fill(hears);
  await marketer.getByRole("button", { name: "Try it and keep it" }).click();
  const secret = (await marketer.getByText(/^whsec_/).textContent()) ?? "";
  await page.getByLabel("Checks signatures with").fill(secret);
  await page.getByRole("button", { name: "Keep it" }).click();
  await marketer.getByRole("button", { name: "I have it" }).click();
  await expect(marketer.getByRole("group", { name: "Signed events of Brackenwheel" })).toBeVisible();

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

  await marketer.getByRole("button", { name: "Add a step to Always" }).click();
  await marketer.getByRole("group", { name: "Systems" }).getByRole("button", { name: "Card in an address book" }).click();
  await marketer.getByLabel("Book", { exact: true }).selectOption("Everybody");
  await marketer.getByRole("button", { name: "Close" }).click();
  await marketer.getByRole("button", { name: "Add a step to Always" }).click();
  await marketer.getByRole("group", { name: "Systems" }).getByRole("button", { name: "Onto a dial list" }).click();
  await marketer.getByLabel("List", { exact: true }).selectOption("Ring now");
  await marketer.getByLabel("as a test, with the answers of").selectOption({ label: `${known.first} ${known.last}` });
  await marketer.getByRole("button", { name: "Try it" }).click();
  await expect(marketer.getByText("Ringbarrow took it")).toBeVisible();
  await marketer.getByRole("button", { name: "Take it back there" }).click();
  await expect(marketer.getByText("It is gone there.")).toBeVisible();
  await marketer.getByRole("button", { name: "Close" }).click();
  await marketer.getByRole("button", { name: "Add a step to Always" }).click();
  await marketer.getByRole("group", { name: "Systems" }).getByRole("button", { name: "Signed event" }).click();
  await marketer.getByRole("button", { name: "Close" }).click();
  await marketer.getByRole("button", { name: /^Post to the ride desk/ }).click();
  const words = marketer.getByLabel("Words", { exact: true });
  await marketer.getByRole("button", { name: "Put a field in" }).click();
  await marketer.getByRole("button", { name: /^Ticket in Jobrack: url/ }).click();
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

test("the address book knows who rings, the event is signed, and a call's outcome comes back", async ({ browser, page }) => {
  const who = person("4–9");
  await visit(page, who);
  await page.goto(`${backlot}/namewell`);
  await page.getByLabel("The phone of").selectOption("Imke Sandoval");
  await page.getByLabel("is rung from").fill(who.phone);
  await page.getByRole("button", { name: "Ring" }).click();
  await expect(page.getByRole("heading", { name: `${who.first} ${who.last}` })).toBeVisible();
  await page.goto(`${backlot}/earwick`);
  const heard = page.getByRole("row").filter({ hasText: who.email });
  await expect(heard).toContainText("lead.asked");
  await expect(heard.getByRole("cell", { name: "right", exact: true })).toBeVisible();

  await page.goto(`${backlot}/ringbarrow`);
  const entry = page.locator("article").filter({ hasText: who.last });
  await entry.getByLabel("It ended:").selectOption("Call back later");
  await entry.getByLabel("Note").fill("after six, please");
  await entry.getByRole("button", { name: "Note it" }).click();
  const marketer = await as(browser, noor);
  await marketer.goto(`/leads?client=brackenwheel&q=${who.last}`);
  await marketer.getByRole("link", { name: `${who.first} ${who.last}` }).click();
  await expect(marketer.getByText("after six, please", { exact: false }).first()).toBeVisible();
});

test("a service breaks, its deliveries are seen, held, mended and sent again", async ({ browser, page, request }) => {
  const marketer = await as(browser, noor);
  await request.put(`${backlot}/api/faults/jobrack`, { data: { mode: "error" } });
  const who = person("4–9");
  await visit(page, who);
  await marketer.goto(`/deliveries?client=brackenwheel&search=${who.last}`);
  const stuck = marketer.getByText("retrying").first();
  await expect(stuck).toBeVisible();
  const queue = marketer.getByRole("group", { name: "Jobrack of Brackenwheel" });
  await expect(queue).toContainText("to be tried again");
  await queue.getByRole("button", { name: "Pause" }).click();
  await expect(queue.getByText(/^paused/)).toBeVisible();

  await marketer.getByRole("link", { name: "Ticket in Jobrack" }).click();
  const sheet = marketer.getByRole("complementary", { name: "Ticket in Jobrack" });
  await expect(sheet.getByText("answered 500", { exact: false }).first()).toBeVisible();
  await expect(sheet.getByText("Bearer •••", { exact: false }).first()).toBeVisible();
  await sheet.getByRole("button", { name: "Give it up" }).click();
  await expect(sheet.getByText("failed", { exact: true })).toBeVisible();
  await request.delete(`${backlot}/api/faults`);
  await queue.getByRole("button", { name: "Resume" }).click();
  await sheet.getByRole("button", { name: "Send it again" }).click();
  await expect(sheet.getByText("delivered", { exact: true }).first()).toBeVisible();

  // Again, as many as the sentence means: counted first.
  await marketer.getByLabel("How they stand").selectOption("those that were delivered");
  await marketer.getByLabel("For whom").selectOption("systems of record");
  await marketer.getByRole("button", { name: "Send these again…" }).click();
  await expect(marketer.getByText(/that had been delivered, each as another thing/)).toBeVisible();
  await marketer.getByRole("button", { name: /^Send (that one|these [\d,]+) again$/ }).click();
  await expect(marketer.getByText(/(is|are) being sent again/)).toBeVisible();
});

test("a signing secret is replaced, leads are sent by hand, and a file goes out", async ({ browser, page }) => {
  const marketer = await as(browser, noor);
  marketer.on("dialog", (d) => d.accept());
  await marketer.goto("/setup?client=brackenwheel");
  const line = marketer.getByRole("group", { name: "Signed events of Brackenwheel" });
  await line.getByRole("button", { name: "New secret" }).click();
  await line.getByLabel("The present one signs too").selectOption("for a day");
  await line.getByRole("button", { name: "Make a new secret" }).click();
  await expect(line.getByText(/^whsec_/)).toBeVisible();
  await line.getByRole("button", { name: "I have it" }).click();
  await expect(line.getByText("The secret before signs too", { exact: false })).toBeVisible();
  // Who still has the older one hears all the same.
  await line.getByRole("button", { name: "Verify" }).click();
  await expect(line.getByText("Asked just now: it works.")).toBeVisible();

  await marketer.goto("/leads?client=brackenwheel&tests=without");
  await marketer.getByLabel("Choose all on this page").check();
  await marketer
    .getByLabel("Send them to")
    .selectOption({ label: "Ringbarrow: “Onto a dial list” of Test ride: tell the desk, text the big fleets" });
  await marketer.getByRole("button", { name: "Send…" }).click();
  await marketer.getByRole("button", { name: /^Send \d+ to Ringbarrow$/ }).click();
  await expect(marketer.getByText(/on their way to Ringbarrow/)).toBeVisible();

  await marketer.goto("/setup?client=brackenwheel");
  await marketer.getByRole("button", { name: "Send a file every night" }).click();
  await marketer.getByLabel("Name", { exact: true }).fill("Every lead");
  await marketer.getByLabel("Of whom").selectOption("all leads");
  await marketer.getByLabel("Through", { exact: true }).selectOption("Namewell");
  await marketer.getByLabel("Folder there", { exact: false }).fill("files/leads");
  await marketer.getByRole("button", { name: "Send it every night" }).click();
  const file = marketer.getByRole("group", { name: "Every lead" });
  await file.getByRole("button", { name: "Send Every lead now" }).click();
  await expect(file.getByText(/^Sent .* leads\./)).toBeVisible();
  await page.goto(`${backlot}/namewell`);
  await expect(page.getByText("leads/brackenwheel-Every-lead-", { exact: false })).toBeVisible();
});
