import type { Locator, Page } from "@playwright/test";
import { as, backlot, e164, expect, imke, noor, person, test } from "./people";

type Who = ReturnType<typeof person>;
const nameOf = (who: Who) => `${who.first} ${who.last}`;
const phones = { imke: "+442920180101", tobias: "+442920180102" };

/** Arms a fuse that rings through for one person alone, when they fill in the ad's form. */
async function armed(marketer: Page, who: Who, team: string[]) {
  const ids = await Promise.all(
    team.map(async (t) => {
      const rep = await as(marketer.context().browser() as never, `${t}@brackenwheel.example`);
      return (await (await rep.request.get("/api/session")).json()).id as string;
    }),
  );
  const token = (await marketer.context().cookies()).find((c) => c.name === "XSRF-TOKEN")?.value ?? "";
  const headers = { "X-XSRF-TOKEN": decodeURIComponent(token) };
  const { id } = await (await marketer.request.post("/api/fuses", { headers, data: { client: "brackenwheel" } })).json();
  const { revision } = await (await marketer.request.get(`/api/fuses/${id}`)).json();
  const steps = [
    {
      id: "ring",
      name: "Ring through",
      kind: "ring-through",
      moment: { afterSeconds: 0 },
      settings: { colleagues: ids.join(","), order: "in-turn", words: "{{ lead.name }}, {{ lead.fleet_size }} bikes." },
      hours: { kind: "none", outside: "wait" },
    },
  ];
  const desk = {
    id: "desk",
    name: "Tell the desk",
    kind: "channel-post",
    moment: { afterSeconds: 0 },
    settings: { channel: "#ride-desk", words: "Nobody could be rung for {{ lead.name }}." },
  };
  const definition = {
    schema: 2,
    name: `Ring through for ${nameOf(who)}`,
    litBy: [{ event: "submission", only: { form: ["brackenwheel-plaza-test-ride"] } }],
    bands: [
      {
        id: "one",
        name: "This one",
        entry: { kind: "when", rules: { match: "all", rules: [{ field: "email", op: "one-of", values: [who.email] }] } },
        steps,
      },
      { id: "nobody", name: "Nobody answered", entry: { kind: "on", event: "rang-through", only: { outcome: ["nobody"] } }, steps: [desk] },
    ],
  };
  const saved = await marketer.request.put(`/api/fuses/${id}/draft`, { headers, data: { definition, revision } });
  expect(saved.ok(), await saved.text()).toBe(true);
  const arm = await marketer.request.post(`/api/fuses/${id}/arm`, { headers, data: { revision: revision + 1 } });
  expect(arm.ok(), await arm.text()).toBe(true);
}

async function askOnPlaza(page: Page, who: Who) {
  await page.goto(`${backlot}/plaza/fill/pf-brackenwheel-ride`);
  await page.getByLabel("Your name").fill(nameOf(who));
  await page.getByLabel("Email").fill(who.email);
  await page.getByLabel("Mobile number").fill(who.phone);
  await page.getByLabel("How many bikes").selectOption(who.fleet);
  await page.getByLabel("What do you carry?").selectOption("food");
  await page.getByRole("button", { name: "Send" }).click();
  await expect(page.getByRole("heading", { name: "Sent" })).toBeVisible();
}

const handset = (page: Page, number: string) => page.getByRole("region", { name: `The phone ${number}` });
const ringing = (phone: Locator) => phone.locator("article").filter({ hasText: "RINGING" }).last();

test("from the ad's form to two people talking, and over, with the Watch and the story beside it", async ({ browser, page }) => {
  const marketer = await as(browser, noor);
  await marketer.goto("/?client=brackenwheel");
  await expect(marketer.getByText("◆ live")).toBeVisible();
  const who = person("4–9");
  await armed(marketer, who, ["imke", "tobias"]);
  const hand = await browser.newPage();
  await hand.goto(`${backlot}/copperline?phone=${encodeURIComponent(phones.imke)}&and=${encodeURIComponent(e164(who))}`);
  await askOnPlaza(page, who);

  // Her phone rings within seconds; she hears who it is, presses 1, and theirs rings.
  const hers = handset(hand, phones.imke);
  const sent = Date.now();
  await expect(ringing(hers)).toBeVisible({ timeout: 6000 });
  const rang = Date.now() - sent;
  await ringing(hers).getByRole("button", { name: "Answer", exact: true }).click();
  const line = marketer.getByRole("group", { name: `Call with ${nameOf(who)}` });
  await expect(line).toContainText("Imke Sandoval is asked");
  await expect(hers).toContainText(`voice: ${nameOf(who)}, 4–9 bikes. Press 1 to speak to them now, 2 to pass it on.`);
  await hers.getByRole("button", { name: "1", exact: true }).click();
  const theirs = handset(hand, e164(who));
  await expect(ringing(theirs)).toBeVisible();
  await expect(ringing(theirs)).not.toContainText("4–9 bikes");
  await ringing(theirs).getByRole("button", { name: "Answer", exact: true }).click();
  await expect(line).toContainText(/talking \d+ s/);
  // The pages of the stand-in are looked at once a second; what is left is ours.
  const story = `${rang} ms from the ad's form to her phone, ${Date.now() - sent} ms to two people talking`;
  test.info().annotations.push({ type: "timed", description: story });
  console.log(`timed: ${story}`);

  // They talk: each hears the other.
  await hers.getByLabel("Say").fill("Imke from Brackenwheel. You asked for a test ride?");
  await hers.getByRole("button", { name: "Say it" }).click();
  await expect(theirs).toContainText("You asked for a test ride?");
  await theirs.getByLabel("Say").fill("Yes, on Tuesday.");
  await theirs.getByRole("button", { name: "Say it" }).click();
  await expect(hers).toContainText("Yes, on Tuesday.");

  // The lead's page shows it live; they are touched, and nobody else need jump.
  const rep = await as(browser, imke);
  await rep.goto(`/leads?q=${who.email}`);
  await rep.getByRole("link", { name: nameOf(who) }).click();
  await expect(rep.getByRole("group", { name: `Call with ${nameOf(who)}` })).toContainText("talking");
  await expect(rep.getByText("Imke Sandoval reached out", { exact: false }).first()).toBeVisible();
  await expect(rep.getByText(/within the target/)).toBeVisible();
  await rep.getByRole("button", { name: "Hang up" }).click();
  await expect(rep.getByText(/The call is over:/)).toBeVisible();
  await expect(rep.getByText(/Imke Sandoval hung it up after 0:\d\d/)).toBeVisible();
  await expect(line).toHaveCount(0);
  await expect(theirs).toContainText("over: hung up there");
  await expect(marketer.getByRole("listitem").filter({ hasText: nameOf(who) })).toHaveCount(0);
  await hand.close();
});

test("passed on, turned away, and nobody: the band for that is lit", async ({ browser, page }) => {
  const marketer = await as(browser, noor);
  await marketer.goto("/?client=brackenwheel");
  const who = person("10–24");
  await armed(marketer, who, ["imke", "tobias"]);
  const hand = await browser.newPage();
  await hand.goto(`${backlot}/copperline?phone=${encodeURIComponent(phones.imke)}&and=${encodeURIComponent(phones.tobias)}`);
  await askOnPlaza(page, who);
  const [hers, his] = [handset(hand, phones.imke), handset(hand, phones.tobias)];
  await ringing(hers).getByRole("button", { name: "Answer", exact: true }).click({ timeout: 8000 });
  await hers.getByRole("button", { name: "2", exact: true }).click();
  await ringing(his).getByRole("button", { name: "Decline" }).click();
  await marketer.goto(`/leads?q=${who.email}`);
  await marketer.getByRole("link", { name: nameOf(who) }).click();
  await expect(marketer.getByText("Imke Sandoval passed it on")).toBeVisible();
  await expect(marketer.getByText("Tobias Renn turned it away")).toBeVisible();
  await expect(marketer.getByText("The call is over:")).toBeVisible();
  await expect(marketer.getByText("Band “Nobody answered” lit:")).toBeVisible();
  await page.goto(`${backlot}/ridgeboard?channel=%23ride-desk`);
  await expect(page.locator("article").filter({ hasText: `Nobody could be rung for ${nameOf(who)}.` })).toBeVisible();
  await hand.close();
});

test("a rep rings from the lead's page, and is not rung while not available", async ({ browser, page }) => {
  const who = person("1–3");
  await askOnPlaza(page, who);
  const rep = await as(browser, imke);
  await rep.goto("/notices");
  await rep.getByRole("checkbox", { name: /available/ }).click();
  await expect(rep.getByText("◇ no calls to you")).toBeVisible();
  await rep.getByRole("checkbox", { name: /available/ }).click();
  await expect(rep.getByText("◇ no calls to you")).toHaveCount(0);
  await rep.goto(`/leads?q=${who.email}`);
  await rep.getByRole("link", { name: nameOf(who) }).click();
  await rep.getByRole("button", { name: "Ring", exact: true }).click();
  const hand = await browser.newPage();
  await hand.goto(`${backlot}/copperline?phone=${encodeURIComponent(phones.imke)}&and=${encodeURIComponent(e164(who))}`);
  await ringing(handset(hand, phones.imke)).getByRole("button", { name: "Answer", exact: true }).click();
  await ringing(handset(hand, e164(who)))
    .getByRole("button", { name: "Answer", exact: true })
    .click();
  await expect(rep.getByText(/talking \d+ s/)).toBeVisible();
  await handset(hand, e164(who)).getByRole("button", { name: "Hang up" }).click();
  await expect(rep.getByText(/hung up after 0:\d\d/)).toBeVisible();
  await hand.close();
});
