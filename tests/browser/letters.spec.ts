import { type APIRequestContext, expect as expected, type Page } from "@playwright/test";
import { getDocument } from "pdfjs-dist/legacy/build/pdf.mjs";
import { as, backlot, expect, noor, person, test, visit } from "./people";

type Who = ReturnType<typeof person>;
const nameOf = (who: Who) => `${who.first} ${who.last}`;

/** Asks to be called back: a letter goes out at once, with what they wrote in it and as a PDF. */
async function askToBeCalled(page: Page, who: Who) {
  await page.goto(`${backlot}/formbench/fill/fb-brackenwheel-callback`);
  await page.getByLabel("Your name").fill(nameOf(who));
  await page.getByLabel("Email").fill(who.email);
  await page.getByLabel("Mobile number").fill(who.phone);
  await page.getByRole("button", { name: "Send" }).click();
  await page.waitForURL(/thank-you/);
}

type Letter = { id: number; subject: string; files: { name: string }[] };

async function letterTo(request: APIRequestContext, email: string): Promise<Letter> {
  let letters: Letter[] = [];
  await expected
    .poll(async () => {
      letters = await (await request.get(`${backlot}/api/pillarpost/letters?to=${encodeURIComponent(email)}`)).json();
      return letters.length;
    })
    .toBeGreaterThan(0);
  return letters[0] as Letter;
}

async function textOf(pdf: Buffer): Promise<string> {
  const pages: string[] = [];
  const document = await getDocument({ data: new Uint8Array(pdf), useSystemFonts: false }).promise;
  for (let n = 1; n <= document.numPages; n += 1) {
    const { items } = await (await document.getPage(n)).getTextContent();
    pages.push(items.map((i) => ("str" in i ? i.str : "")).join("\n"));
  }
  return pages.join("\n");
}

async function openLead(page: Page, who: Who) {
  await page.goto(`/leads?q=${encodeURIComponent(who.email)}`);
  await page.getByRole("link", { name: nameOf(who) }).click();
  await expect(page.getByRole("heading", { name: nameOf(who) })).toBeVisible();
}

test("the acknowledgement with its PDF, answered, and the answer in the story", async ({ browser, page }) => {
  const who = person("4–9");
  await askToBeCalled(page, who);
  const letter = await letterTo(page.request, who.email);
  expect(letter.subject).toBe("We ring you back, Ines");
  expect(letter.files.map((f) => f.name)).toEqual(["answers.pdf"]);
  const pdf = await textOf(await (await page.request.get(`${backlot}/api/pillarpost/letters/${letter.id}/files/0`)).body());
  for (const said of ["Brackenwheel Cargo Cycles", "We ring you back, Ines", "Your name", nameOf(who), "Mobile number", who.phone])
    expect(pdf).toContain(said);

  await page.goto(`${backlot}/pillarpost?inbox=${encodeURIComponent(who.email)}`);
  await page.getByLabel("Answer").fill("Ring me after four, please.");
  await page.getByRole("button", { name: "Send" }).click();
  await expect(page.getByRole("button", { name: "Sent" })).toBeVisible();
  const marketer = await as(browser, noor);
  await openLead(marketer, who);
  await expect(marketer.getByText("They wrote back:")).toBeVisible();
  await expect(marketer.getByText("Ring me after four, please.")).toBeVisible();
});

test("unsubscribed with one press in the mail program", async ({ browser, page }) => {
  const who = person("4–9");
  await askToBeCalled(page, who);
  await letterTo(page.request, who.email);
  await page.goto(`${backlot}/pillarpost?inbox=${encodeURIComponent(who.email)}`);
  await page.getByRole("button", { name: "unsubscribe", exact: true }).click();
  const marketer = await as(browser, noor);
  await openLead(marketer, who);
  await expect(marketer.getByText("wants no texts", { exact: true })).toBeVisible();
  await expect(marketer.getByText(/unsubscribed with one click in their mail program/)).toBeVisible();
});

test("a letter that comes back marks the address, until somebody says that it works", async ({ browser, page }) => {
  const plain = person("4–9");
  const who = { ...plain, email: `moved.${plain.email}` };
  await askToBeCalled(page, who);
  const marketer = await as(browser, noor);
  await openLead(marketer, who);
  await expect(marketer.getByText("letters come back")).toBeVisible();
  await expect(marketer.getByText(/550 the mailbox has moved/).first()).toBeVisible();
  await marketer.getByRole("button", { name: "The address works" }).click();
  await expect(marketer.getByText("letters come back")).toHaveCount(0);
});

test("a letter from nobody we know lies in the tray, and is given to whose it is", async ({ browser, page }) => {
  const who = person("4–9");
  await askToBeCalled(page, who);
  const from = `other.${who.email}`;
  await page.request.post(`${backlot}/api/pillarpost/letters`, {
    data: { from, to: "hello@brackenwheel.example", subject: "Bikes", text: "Do you lease to schools?" },
  });
  const marketer = await as(browser, noor);
  await marketer.goto("/leads/tray?client=brackenwheel");
  const message = marketer.getByRole("group", { name: `From ${from}` });
  await expect(message).toContainText("Do you lease to schools?");
  await message.getByRole("button", { name: "It is a lead’s …" }).click();
  await message.getByLabel("Whose it is").fill(who.email);
  await message.getByRole("button", { name: `It is ${nameOf(who)}’s` }).click();
  await expect(message).toHaveCount(0);
  await openLead(marketer, who);
  await expect(marketer.getByText("Do you lease to schools?")).toBeVisible();
});

test("a hostile name does nothing in any channel", async ({ browser, page }) => {
  const who = { ...person("4–9"), first: "Ines", last: `"><img/src=x onerror=alert(1)>\u202etfel O'Neil` };
  const dialogs: string[] = [];
  const watched = (p: Page) =>
    p.on("dialog", (d) => {
      dialogs.push(d.message());
      void d.dismiss();
    });
  watched(page);
  // The landing page tells the desk, the phone and one person; asking to be called back rings the team and writes a letter.
  await visit(page, { ...who, fleet: "25+" });
  await askToBeCalled(page, who);
  const marketer = await as(browser, noor);
  watched(marketer);
  // A name like this may wait for a person's word first.
  await marketer.goto("/leads/pen?client=brackenwheel");
  await marketer.waitForLoadState("networkidle");
  const held = marketer.getByText(who.email);
  if (await held.count()) {
    await held.first().click();
    await marketer
      .getByRole("button", { name: /^Approve/ })
      .first()
      .click();
    await expect(held).toHaveCount(0);
  }
  const letter = await letterTo(page.request, who.email);
  await marketer.goto(`/leads?q=${encodeURIComponent(who.email)}`);
  await marketer.getByRole("link", { name: /img/ }).first().click();
  await expect(marketer.getByRole("heading", { level: 1 })).toContainText("<img/src=x");
  const phone = `+44${who.phone.replaceAll(" ", "").slice(1)}`;
  await page.goto(`${backlot}/ridgeboard?channel=%23ride-desk`);
  await expect(page.locator("article").filter({ hasText: who.email })).toContainText("<img/src=x");
  await page.goto(`${backlot}/copperline?phone=${encodeURIComponent(phone)}`);
  await expect(page.locator("article").filter({ hasText: "thank you for asking about 25+ cargo bikes" })).toBeVisible();
  for (const path of [
    "ridgeboard?channel=%23ride-desk",
    "ridgeboard?channel=%40imke.sandoval",
    "copperline",
    "copperline?phone=%2B442920180103",
    `pillarpost?inbox=${encodeURIComponent(who.email)}`,
    `pillarpost/letters/${letter.id}`,
  ]) {
    await page.goto(`${backlot}/${path}`);
    expect(await page.locator("img[src=x]").count()).toBe(0);
    expect(await page.locator("body").innerText()).not.toContain("\u202e");
  }
  await marketer.goto("/");
  expect(await marketer.locator("img[src=x]").count()).toBe(0);
  const pdf = await textOf(await (await page.request.get(`${backlot}/api/pillarpost/letters/${letter.id}/files/0`)).body());
  expect(pdf).toContain("<img/src=x");
  expect(pdf).not.toContain("\u202e");
  expect(letter.subject).not.toMatch(/[\r\n\u202e]/);
  expect(dialogs).toEqual([]);
});

test("a question and a stop by text: read, obeyed, confirmed once", async ({ browser, page }) => {
  const who = person("25+");
  await visit(page, who);
  const phone = `+44${who.phone.replaceAll(" ", "").slice(1)}`;
  const texts = async () =>
    (await (await page.request.get(`${backlot}/api/copperline/messages?to=${encodeURIComponent(phone)}`)).json()) as {
      text: string;
      from: string;
    }[];
  await expect.poll(async () => (await texts()).length).toBe(1);
  await page.goto(`${backlot}/copperline?phone=${encodeURIComponent(phone)}`);
  const marketer = await as(browser, noor);
  await openLead(marketer, who);
  await page.getByLabel(/Write back to/).fill("How long is the lease?");
  await page.getByRole("button", { name: "Send" }).click();
  await expect(marketer.getByText("How long is the lease?")).toBeVisible();
  await page.getByLabel(/Write back to/).fill("ARRÊT");
  await page.getByRole("button", { name: "Send" }).click();
  await expect(marketer.getByText("wants no texts", { exact: true })).toBeVisible();
  await expect.poll(async () => (await texts()).length).toBe(2);
  expect((await texts())[1]?.text).toBe(
    "Brackenwheel Cargo Cycles: you will get no more texts from us. Write START if you want them again.",
  );
  await page.getByLabel(/Write back to/).fill("START");
  await page.getByRole("button", { name: "Send" }).click();
  await expect(marketer.getByText("wants no texts", { exact: true })).toHaveCount(0);
});

test("a file is put into the library and comes with a letter, chosen with the mouse", async ({ browser }) => {
  const marketer = await as(browser, noor);
  const name = `Prices ${Date.now()}.pdf`;
  await marketer.goto("/setup?client=brackenwheel");
  await marketer.getByLabel("Put a file in").setInputFiles({ name, mimeType: "application/pdf", buffer: Buffer.from("%PDF-1.4 prices") });
  await expect(marketer.getByRole("link", { name })).toBeVisible();
  await marketer.goto("/fuses?client=brackenwheel");
  await marketer.getByRole("link", { name: "Call me back: ring through" }).click();
  await marketer.getByRole("button", { name: /^Letter: we ring you/ }).click();
  const files = marketer.getByRole("group", { name: "Files with it" });
  await files.getByRole("combobox").selectOption(name);
  await expect(files.getByRole("listitem")).toContainText(name);
  const answers = marketer.getByRole("group", { name: "Answers under it" });
  await answers.getByRole("combobox").selectOption("name");
  await answers.getByRole("button", { name: "name, earlier" }).click();
  await expect(answers.getByRole("listitem").first()).toContainText("name");
  await marketer.getByLabel("Sender").fill("nobody in particular");
  await expect(marketer.getByRole("button", { name: "What's wrong: 1" })).toBeVisible();
  await marketer.getByLabel("Sender").fill("Imke Sandoval <imke@brackenwheel.example>");
  await expect(marketer.getByRole("button", { name: "What's wrong: 0" })).toBeVisible();
  // As it was armed: others send this form too.
  for (let n = 0; n < 8 && (await marketer.getByRole("button", { name: "Undo" }).isEnabled()); n += 1)
    await marketer.getByRole("button", { name: "Undo" }).click();
});
