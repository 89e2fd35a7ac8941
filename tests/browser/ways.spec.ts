import type { Page } from "@playwright/test";
import { as, backlot, expect, noor, test } from "./people";

let count = 0;
const somebody = () => {
  count += 1;
  const n = `${Date.now().toString(36)}${count}`;
  return { name: `Ines Way-${n}`, email: `way.${n}@example.com` };
};

/** Fills in a form of the Backlot as a person. */
async function fill(page: Page, path: string, who: ReturnType<typeof somebody>, more: Record<string, string> = {}) {
  await page.goto(`${backlot}/${path}`);
  await page.getByLabel("Your name").fill(who.name);
  await page.getByLabel("Email").fill(who.email);
  for (const [label, choice] of Object.entries(more)) await page.getByLabel(label).selectOption(choice);
  await page.getByRole("button", { name: "Send" }).click();
}

const bikes = { "How many bikes": "25+", "What do you carry?": "food" };
const onWatch = (watch: Page, who: { name: string }) => watch.getByRole("listitem").filter({ hasText: who.name });

test.describe("from the person's form to the Watch", () => {
  for (const [network, path] of [
    ["Plaza", "plaza/fill/pf-brackenwheel-ride"],
    ["Lanternfind", "lanternfind/fill/lf-brackenwheel-lease"],
  ] as const) {
    test(`through ${network}`, async ({ browser, page }) => {
      const watch = await as(browser, noor);
      await watch.goto("/?client=brackenwheel");
      await expect(watch.getByText("◆ live")).toBeVisible();
      const who = somebody();
      await fill(page, path, who, bikes);
      await expect(page.getByRole("heading", { name: "Sent" })).toBeVisible();
      await expect(onWatch(watch, who)).toBeVisible({ timeout: 5000 });
      await expect(onWatch(watch, who)).toContainText(network);
    });
  }

  test("through Tradehall, as late as it shows them", async ({ browser, page }) => {
    await page.goto(`${backlot}/tradehall`);
    await page.getByLabel("Show responses after").fill("0");
    await page.getByRole("button", { name: "Set" }).click();
    const who = somebody();
    await page.goto(`${backlot}/tradehall/fill/tf-brackenwheel-fleet`);
    // The network knows who is signed in.
    await expect(page.getByLabel("Business")).toHaveValue("Ashdown Couriers");
    await fill(page, "tradehall/fill/tf-brackenwheel-fleet", who, bikes);
    const watch = await as(browser, noor);
    await watch.goto("/sources?client=brackenwheel");
    await watch.getByRole("link", { name: "Tradehall", exact: true }).click();
    await watch.getByRole("button", { name: "Look now" }).click();
    await watch.goto("/?client=brackenwheel");
    await expect(onWatch(watch, who)).toBeVisible({ timeout: 8000 });
  });

  test("through the form tool, called and passed through", async ({ browser, page }) => {
    const [called, passed] = [somebody(), somebody()];
    await fill(page, "formbench/fill/fb-brackenwheel-costs", called, { "How many bikes": "4–9" });
    await fill(page, "formbench/fill/fb-brackenwheel-callback", passed);
    await expect(page.getByRole("heading", { name: "Thank you. Keep your phone near." })).toBeVisible();
    const watch = await as(browser, noor);
    await watch.goto("/?client=brackenwheel");
    for (const who of [called, passed]) await expect(onWatch(watch, who)).toBeVisible({ timeout: 5000 });
  });

  test("through the page's own form, sent to us and captured by the script", async ({ browser, page }) => {
    const [sent, captured] = [somebody(), somebody()];
    await page.goto(`${backlot}/pagewright/brackenwheel/second-hand`);
    await page.getByLabel("First name").fill("Ines");
    await page.getByLabel("Last name").fill(sent.name.slice("Ines ".length));
    await page.getByLabel("Email").fill(sent.email);
    await page
      .getByLabel("A picture of your yard")
      .setInputFiles({ name: "yard.png", mimeType: "image/png", buffer: Buffer.alloc(400_000) });
    await page.getByRole("button", { name: "Ask" }).click();
    await page.waitForURL(/thank-you/);

    await page.goto(`${backlot}/pagewright/brackenwheel/visit-us?utm_source=gazette&utm_campaign=weekdays`);
    await page.getByLabel("You may recognise me").check();
    await page.getByLabel("Your name").fill(captured.name);
    await page.getByLabel("Email").fill(captured.email);
    await page.getByLabel("A password").fill("not-for-us");
    await page.getByRole("button", { name: "Book a visit" }).click();
    // The page's own server has answered, as if we were not there.
    await expect(page.getByRole("heading", { name: "See you soon." })).toBeVisible();
    await page.getByRole("link", { name: "Back to the page" }).click();

    const watch = await as(browser, noor);
    await watch.goto("/?client=brackenwheel");
    for (const who of [sent, captured]) await expect(onWatch(watch, who)).toBeVisible({ timeout: 5000 });
    await onWatch(watch, captured).getByRole("link").click();
    await expect(watch.getByText("gazette")).toBeVisible();
    await expect(watch.getByText("not-for-us")).toHaveCount(0);
    await expect(watch.getByText("Back on the page")).toBeVisible();
  });

  test("by hand", async ({ browser }) => {
    const who = somebody();
    const watch = await as(browser, noor);
    await watch.goto("/leads/new?client=brackenwheel");
    await watch.getByLabel("Name", { exact: true }).fill(who.name);
    await watch.getByRole("button", { name: "Add the lead" }).click();
    await expect(watch.getByText("Give an email address or a telephone number.")).toBeVisible();
    await watch.getByLabel("Email").fill(who.email);
    await watch.getByRole("button", { name: "Add the lead" }).click();
    await expect(watch.getByText(`${who.name} is in.`)).toBeVisible();
    await watch.goto("/?client=brackenwheel");
    await expect(onWatch(watch, who)).toBeVisible();
  });

  test("by API key, which is told once", async ({ browser, request }) => {
    const who = somebody();
    const watch = await as(browser, noor);
    await watch.goto("/setup?client=brackenwheel");
    await watch.getByLabel("For which program").fill("The booking calendar");
    await watch.getByRole("button", { name: "Make a key" }).click();
    const key = await watch.getByText(/^lf_key_[a-z0-9]{56}$/).textContent();
    const answer = await request.post(new URL("/api/leads", watch.url()).href, {
      headers: { Authorization: `Bearer ${key}` },
      data: { id: who.email, fields: { full_name: who.name, email: who.email } },
    });
    expect(answer.status()).toBe(202);
    await watch.goto("/?client=brackenwheel");
    await expect(onWatch(watch, who)).toBeVisible();
  });
});

test("a network is connected with a permission missing: it is named, and connecting again mends it", async ({ browser }) => {
  const page = await as(browser, noor);
  await page.goto("/sources/new?client=hollin-vane");
  await page.getByRole("link", { name: "Plaza" }).click();
  await page.getByRole("button", { name: "Connect Plaza" }).click();
  await expect(page.getByRole("heading", { name: "May Lit Fuse come in?" })).toBeVisible();
  await page.getByLabel("read what people answered").uncheck();
  // Only the client's own page is ticked; this one is given another's on purpose.
  const tickAnother = async () => {
    await expect(page.getByLabel("Hollin Vane Acoustics")).toBeChecked();
    await expect(page.getByLabel("Brackenwheel Cargo Cycles")).not.toBeChecked();
    await page.getByLabel("Hollin Vane Acoustics").uncheck();
    await page.getByLabel("Tarn Valley Marquees").check();
  };
  await tickAnother();
  await page.getByRole("button", { name: "Allow" }).click();
  await expect(page.getByText("Connected. Choose what you want from it below.")).toBeVisible();
  await expect(page.getByRole("alert").filter({ hasText: "we hear that somebody answered and cannot fetch what" })).toBeVisible();
  await page.getByRole("button", { name: "Connect again" }).click();
  await tickAnother();
  await page.getByRole("button", { name: "Allow" }).click();
  await expect(page.getByText("access whole")).toBeVisible();

  // Choosing a form leads straight to its map.
  await page.getByRole("button", { name: "Choose Is your date free?" }).click();
  await expect(page.getByRole("heading", { name: "Field map" })).toBeVisible();
  await expect(page.getByLabel("Email goes to")).toHaveValue("email");
  await page.getByRole("button", { name: "Confirm the map" }).click();
  await expect(page.getByText("confirmed", { exact: true })).toBeVisible();

  await page.goto("/sources/new/plaza?client=hollin-vane");
  await page.getByRole("button", { name: "Connect Plaza" }).click();
  await page.getByRole("button", { name: "Refuse" }).click();
  await expect(page.getByText("On the network's page you pressed Refuse")).toBeVisible();
});

test("a wrong key is refused there and shown here", async ({ browser, page }) => {
  await page.goto(`${backlot}/lanternfind/forms/lf-brackenwheel-repair`);
  const mine = await as(browser, noor);
  await mine.goto("/sources?client=brackenwheel");
  await mine.getByRole("link", { name: "Lanternfind", exact: true }).click();
  const address = await mine.getByRole("group", { name: "Text as it is" }).first().textContent();
  await page.getByLabel("Address").fill(address ?? "");
  await page.getByLabel("Key").fill("not-the-key");
  await page.getByRole("button", { name: "Save" }).click();
  await page.getByRole("button", { name: "Try this address" }).click();
  await expect(page.getByRole("heading", { name: "The address refused it" })).toBeVisible();
  await expect(mine.getByText("it begins with “not-…”")).toBeVisible();

  await mine.getByRole("button", { name: "Show the key" }).click();
  const key = await mine.getByText(/^backlot-demo-brackenwheel-lanternfind$/).textContent();
  await page.goto(`${backlot}/lanternfind/forms/lf-brackenwheel-repair`);
  await page.getByLabel("Key").fill(key ?? "");
  await page.getByRole("button", { name: "Save" }).click();
  await page.getByRole("button", { name: "Try this address" }).click();
  await expect(page.getByRole("heading", { name: "The address took it" })).toBeVisible();
  await expect(mine.getByRole("link", { name: "Ask about repairs" }).first()).toBeVisible();
});

test("a form is built and used on a website in all three ways, once with scripts switched off", async ({ browser, page }) => {
  const mine = await as(browser, noor);
  const title = `Spring tour ${Date.now().toString(36)}`;
  await mine.goto("/sources?client=brackenwheel");
  await mine.getByRole("link", { name: "Pagewright", exact: true }).click();
  await mine.getByLabel("A new form, called").fill(title);
  await mine.getByRole("button", { name: "Build it here" }).click();
  await expect(mine.getByRole("button", { name: "1 missing" })).toBeDisabled();
  await mine.getByLabel("Begin with a headline").check();
  await mine.getByLabel("Headline", { exact: true }).fill("Ride with us in May");
  await mine.getByLabel("Add a field").selectOption("… one of some choices");
  await mine.getByLabel("Words of field 4").fill("Which city?");
  await mine.getByLabel("Choices, one a line").fill("Quillon\nTarn");
  await mine.getByLabel("Show the answers once more before they are sent").check();
  await mine.getByLabel("Address of the privacy notice").fill(`${backlot}/pagewright/brackenwheel/privacy`);
  await mine.getByRole("button", { name: "Publish" }).click();
  await mine.getByRole("link", { name: "Take the piece to paste into your page." }).click();
  const pieces = mine.getByRole("group", { name: "Text as it is" });
  const [script, html, hosted] = [await pieces.nth(0).textContent(), await pieces.nth(1).textContent(), await pieces.nth(2).textContent()];

  const paste = async (name: string, text: string | null) => {
    await page.goto(`${backlot}/pagewright`);
    await page.getByLabel("Title").fill(`${title} ${name}`);
    await page.getByLabel("HTML").fill(text ?? "");
    await page.getByRole("button", { name: "Make it" }).click();
    return page.url();
  };
  const answer = async (on: Page, who: ReturnType<typeof somebody>) => {
    await expect(on.getByRole("heading", { name: "Ride with us in May" })).toBeVisible();
    await on.getByLabel("Your name").fill(who.name);
    await on.getByLabel("Email").fill(who.email);
    await on.getByLabel("Which city?").selectOption("Tarn");
    await on.getByRole("button", { name: "Send" }).click();
    await expect(on.getByText("Is this right?")).toBeVisible();
    await expect(on.getByText(who.email)).toBeVisible();
    await on.getByRole("button", { name: "Send" }).click();
    await expect(on.getByText("Your answers have arrived.")).toBeVisible();
  };
  const [first, second, third] = [somebody(), somebody(), somebody()];
  await paste("by script", script);
  await answer(page, first);
  await page.goto(hosted ?? "");
  await answer(page, second);
  const address = await paste("plain", html);
  const plain = await (await browser.newContext({ javaScriptEnabled: false })).newPage();
  await plain.goto(address);
  await answer(plain, third);
  await mine.goto("/?client=brackenwheel");
  for (const who of [first, second, third]) await expect(onWatch(mine, who)).toBeVisible({ timeout: 5000 });
  await mine.getByRole("link", { name: first.name }).click();
  await expect(mine.getByText("Tarn", { exact: true }).first()).toBeVisible();
});

test("fields of a hook are picked with the mouse, and what waited becomes a lead", async ({ browser, request }) => {
  const mine = await as(browser, noor);
  const who = somebody();
  await mine.goto("/sources/new/hook?client=brackenwheel");
  await mine.getByLabel("What do you call it").fill("Booking calendar");
  await mine.getByRole("button", { name: "Make it" }).click();
  await mine.getByLabel("A new hook, called").fill("Bookings");
  await mine.getByRole("button", { name: "Make it" }).click();
  const address = await mine.getByRole("group", { name: "Text as it is" }).first().textContent();
  await request.post(address ?? "", {
    data: { guest: { label: who.name, mail: { "e-mail": who.email } }, rows: [{ sku: "A1" }, { sku: "B2" }] },
  });
  await mine.getByRole("button", { name: /\$\.guest\.label/ }).click();
  await mine.getByLabel("$.guest.label is").fill("full_name");
  await mine.getByRole("button", { name: /e-mail/ }).click();
  await expect(mine.getByLabel("$.guest.mail['e-mail'] is")).toHaveValue("email");
  await mine.getByRole("button", { name: /sku/ }).click();
  await mine.getByRole("button", { name: "Use these 3 fields" }).click();
  await expect(mine.getByText("became a lead")).toBeVisible();
  await mine.goto("/?client=brackenwheel");
  await expect(onWatch(mine, who)).toContainText("A1, B2");
});

test("a file is imported with doubles, another is cancelled, and both are undone", async ({ browser }) => {
  const mine = await as(browser, noor);
  const who = somebody();
  const choose = async (name: string, text: string) => {
    await mine.goto("/sources/new/file?client=tarn-valley");
    await mine.getByLabel("The file").setInputFiles({ name, mimeType: "text/csv", buffer: Buffer.from(text) });
    await expect(mine.getByRole("heading", { name })).toBeVisible();
  };
  await choose("fair.csv", `Name;E-Mail;Guests\n${who.name};${who.email};50\n${who.name};${who.email};50\nNobody;;3\n`);
  await expect(mine.getByText("Of 3 rows: 1 new lead, 0 updates, 1 here already, 1 not readable.")).toBeVisible();
  await expect(mine.getByLabel("Delimiter")).toHaveValue(";");
  await mine.getByRole("button", { name: "Import it" }).click();
  await expect(mine.getByText("3 rows in", { exact: false })).toContainText("1 new, 0 updates, 1 here already, 1 not readable");
  const [bad] = await Promise.all([mine.waitForEvent("download"), mine.getByRole("link", { name: "Get the 1 rows" }).click()]);
  expect(bad.suggestedFilename()).toContain("bad rows");
  const first = mine.url();
  await mine.goto(`/leads?client=tarn-valley&q=${who.email}`);
  await expect(mine.getByRole("link", { name: who.name })).toBeVisible();
  await mine.goto(first);
  await mine.getByRole("button", { name: "Undo the import" }).click();
  await expect(mine.getByText("undone", { exact: true })).toBeVisible();
  await mine.goto(`/leads?client=tarn-valley&q=${who.email}`);
  await expect(mine.getByText("No lead fits.")).toBeVisible();

  const long = ["Name,Email", ...Array.from({ length: 40_000 }, (_, i) => `Maren Long,${i}.${who.email}`)].join("\n");
  await choose("long.csv", long);
  await mine.getByRole("button", { name: "Import it" }).click();
  await expect(mine.getByText(/^[1-9][0-9,]* rows in/)).toBeVisible();
  await mine.getByRole("button", { name: "Cancel" }).click();
  await expect(mine.getByText("cancelled", { exact: true })).toBeVisible();
  await mine.getByRole("button", { name: "Undo the import" }).click();
  await expect(mine.getByText("undone", { exact: true })).toBeVisible({ timeout: 20_000 });
});

test("a paused form keeps what comes, a test lead is marked, and empty visits are said", async ({ browser, page }) => {
  const mine = await as(browser, noor);
  const who = somebody();
  await mine.goto("/sources?client=brackenwheel");
  await mine.getByRole("link", { name: "Call me back" }).click();
  await mine.getByRole("button", { name: "Pause" }).click();
  await expect(mine.getByRole("button", { name: "Resume" })).toBeVisible();
  await fill(page, "formbench/fill/fb-brackenwheel-callback", who);
  await expect(mine.getByText("the form is paused").first()).toBeVisible();
  await mine.getByRole("button", { name: "Resume" }).click();
  await expect(mine.getByText("became a lead").first()).toBeVisible();

  await mine.getByRole("button", { name: "Send a test lead" }).click();
  await expect(mine.getByText("A test lead is on its way")).toBeVisible();
  await expect(mine.getByRole("listitem").getByText("test", { exact: true }).first()).toBeVisible();

  await page.goto(`${backlot}/formbench/forms/fb-brackenwheel-callback`);
  await page.getByLabel("with the answers in the address").uncheck();
  await page.getByRole("button", { name: "Save" }).click();
  await fill(page, "formbench/fill/fb-brackenwheel-callback", somebody());
  await expect(mine.getByRole("alert").filter({ hasText: "came without answers" })).toBeVisible({ timeout: 5000 });
  await page.goto(`${backlot}/formbench/forms/fb-brackenwheel-callback`);
  await page.getByLabel("with the answers in the address").check();
  await page.getByRole("button", { name: "Save" }).click();
});
