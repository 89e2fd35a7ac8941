import { as, backlot, e164, expect, imke, noor, person, test, visit } from "./people";

test("from the visitor's press of a button to the first touch, on everybody's screen", async ({ browser, page }) => {
  const watch = await as(browser, noor);
  await watch.goto("/");
  await expect(watch.getByText("◆ live")).toBeVisible();
  const who = person("25+");
  const name = `${who.first} ${who.last}`;
  await visit(page, who);
  await expect(page.getByRole("heading", { name: "Thank you. Keep your phone near." })).toBeVisible();

  // There without a reload, its line burning, ticks appearing.
  const row = watch.getByRole("listitem").filter({ hasText: name });
  await expect(row).toBeVisible();
  await expect(row.getByRole("img", { name: /Waiting .* to the target(?=.*team after)(?=.*text after).*delivered after/ })).toBeVisible();
  await expect(watch.getByText(`New lead: ${name}`)).toBeAttached();

  // The outside has it: the channel, Imke, and the phone.
  await page.goto(`${backlot}/ridgeboard?channel=%23ride-desk`);
  await expect(page.locator("article").filter({ hasText: who.email })).toContainText("How many bikes would your fleet need?: 25+");
  await page.goto(`${backlot}/ridgeboard?channel=%40imke.sandoval`);
  await expect(page.locator("article").filter({ hasText: name })).toContainText("A big one:");
  await page.goto(`${backlot}/copperline?phone=${encodeURIComponent(e164(who))}`);
  await expect(page.locator("article").filter({ hasText: "thank you for asking about 25+ cargo bikes" }).last()).toContainText("delivered");

  // Imke takes it; Noor sees that; the line burns on.
  const rep = await as(browser, imke);
  await rep.goto("/");
  const hers = rep.getByRole("listitem").filter({ hasText: name });
  await hers.getByRole("button", { name: `Take ${name}` }).click();
  await expect(row.getByText("Imke has it")).toBeVisible();
  await expect(hers.getByText("You have it")).toBeVisible();

  // The story, and a text from the page: first touch, everywhere.
  await watch.getByRole("link", { name }).click();
  await expect(watch.getByText("Nobody has it.")).toHaveCount(0);
  await expect(watch.getByText("Band “Big fleets” lit:")).toBeVisible();
  await expect(watch.getByText("fleet size was 25+, one of 10–24, 25+")).toBeVisible();
  await rep.getByRole("link", { name }).click();
  await rep.getByLabel("Write a text").fill("Imke from Brackenwheel here. Tuesday at ten?");
  await rep.getByRole("button", { name: "Send the text" }).click();
  await expect(rep.getByText("Imke Sandoval reached out", { exact: false }).first()).toBeVisible();
  await expect(watch.getByText("within the target")).toBeVisible();
  await expect(watch.getByText("Imke from Brackenwheel here. Tuesday at ten?", { exact: true })).toBeVisible();
  await watch.goto("/");
  await expect(watch.getByRole("heading", { name: "In the air" })).toBeVisible();
  await expect(row).toHaveCount(0);
});

test("two who press at once: one has it, the other is told by whom", async ({ browser, page }) => {
  const who = person("1–3");
  const name = `${who.first} ${who.last}`;
  await visit(page, who);
  const [a, b] = [await as(browser, imke), await as(browser, "tobias@brackenwheel.example")];
  await Promise.all([a.goto("/"), b.goto("/")]);
  // Both still see it free: no press goes on before both have pressed.
  let pressed = 0;
  let both = () => {};
  const bothPressed = new Promise<void>((then) => {
    both = then;
  });
  for (const p of [a, b])
    await p.route("**/take", async (route) => {
      pressed += 1;
      if (pressed === 2) both();
      await bothPressed;
      await route.continue();
    });
  const press = (p: typeof a) => p.getByRole("button", { name: `Take ${name}` }).click();
  await Promise.all([press(a), press(b)]);
  const told = (p: typeof a) => p.getByRole("listitem").filter({ hasText: name });
  await expect(told(a).getByText(/You have it|Tobias has it/)).toBeVisible();
  await expect(told(b).getByText(/You have it|Imke has it/)).toBeVisible();
  expect((await a.getByText("You have it").count()) + (await b.getByText("You have it").count())).toBeGreaterThan(0);
  // The one who was slower reads by whom.
  const refused = async () =>
    (await told(a)
      .getByText(/ has Ines Calloway/)
      .count()) +
    (await told(b)
      .getByText(/ has Ines Calloway/)
      .count());
  await expect.poll(refused).toBe(1);
});

test("a lead is taken from the post in the chat, signing in on the way, and the post says who has it", async ({ browser, page }) => {
  const who = person("4–9");
  const name = `${who.first} ${who.last}`;
  await visit(page, who);
  await page.goto(`${backlot}/ridgeboard?channel=%23ride-desk`);
  const post = page.locator("article").filter({ hasText: who.email });
  const link = await post.getByRole("link", { name: "Take it" }).getAttribute("href");
  // A rep's phone that is not signed in.
  const phone = await (await browser.newContext({ viewport: { width: 390, height: 844 } })).newPage();
  await phone.goto(link ?? "");
  await phone.getByLabel("Email").fill(imke);
  await phone.getByLabel("Password").fill("strike-a-light-5080");
  await phone.getByRole("button", { name: "Sign in" }).click();
  await expect(phone.getByRole("heading", { name })).toBeVisible();
  await phone.getByRole("button", { name: "Take it" }).click();
  await expect(phone.getByText("You have it.")).toBeVisible();
  await expect(phone.getByRole("link", { name: /^Ring \+44/ })).toBeVisible();
  await expect(post).toContainText(/Imke Sandoval has it, \d+ s after they asked/);
  await expect(post.getByRole("link", { name: "Take it" })).toHaveCount(0);
  await phone.context().close();
});

test.describe("with scripts switched off", () => {
  test.use({ javaScriptEnabled: false });
  test("the form is sent and the visitor lands on the thank-you page", async ({ page, browser }) => {
    const who = person("4–9");
    await visit(page, who);
    const watch = await as(browser, noor, { javaScriptEnabled: true });
    await watch.goto(`/leads?q=${who.email}`);
    await expect(watch.getByRole("link", { name: `${who.first} ${who.last}` })).toBeVisible();
  });
});

test("a visitor whose network is away keeps the answers and gets through later, once", async ({ page }) => {
  const who = person("4–9");
  let away = 2;
  await page.route("**/in/**", (route) => (away-- > 0 ? route.abort() : route.continue()));
  await visit(page, who);
  const posts = async () =>
    (await (await page.request.get(`${backlot}/api/ridgeboard/posts?channel=%23ride-desk`)).json()).filter((p: { text: string }) =>
      p.text.includes(who.email),
    ).length;
  await expect.poll(posts).toBe(1);
});
