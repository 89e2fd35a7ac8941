import type { APIRequestContext, Page } from "@playwright/test";
import { as, backlot, expect, noor, person, test, visit } from "./people";

const stamp = () => Date.now().toString(36);

/** A form of a website that nobody has mapped, and what it is sent. */
async function unmapped(page: Page, name: string, came: Record<string, string>[]): Promise<string> {
  await page.goto("/sources?client=brackenwheel");
  await page.getByRole("link", { name: "Pagewright", exact: true }).click();
  await page.getByLabel("A new form, called").fill(name);
  await page.getByRole("button", { name: "The page has it already" }).click();
  await expect(page.getByRole("heading", { name })).toBeVisible();
  const formId = page.url().split("/sources/")[1]?.split("?")[0] as string;
  const { form } = await (await page.request.get(`/api/forms/${formId}`)).json();
  for (const answers of came) await page.request.post(`/in/${form.key}`, { data: answers, headers: { accept: "application/json" } });
  return formId;
}

const leadOf = async (request: APIRequestContext, email: string) => {
  await expect.poll(async () => (await (await request.get(`/api/leads?q=${email}`)).json()).total, { timeout: 10_000 }).toBe(1);
  return (await (await request.get(`/api/leads?q=${email}`)).json()).items[0];
};

test("a map is confirmed with the mouse: a field is made on the way, and what waited is released", async ({ browser }) => {
  test.setTimeout(150_000);
  const page = await as(browser, noor);
  const n = stamp();
  const id = await unmapped(page, `Fair ${n}`, [
    { contactNm: "Dr. Ines van der Calloway", eml: `mouse.${n}@example.com`, tel1: "07700 900611", stalls: "1,250" },
    { contactNm: "Hal Wetherby", eml: `mouse2.${n}@example.com`, tel1: "ask me", stalls: "12" },
  ]);
  // Left unconfirmed, it is said wherever people look.
  await page.goto("/?client=brackenwheel");
  const lines = page.getByRole("complementary");
  await expect(lines.getByText(`Fair ${n}`)).toBeVisible();
  // How many wait is counted with the line, which is judged again within the minute.
  await expect(lines.getByRole("group", { name: `The line of Fair ${n}` })).toContainText("and 2 submissions wait.", { timeout: 75_000 });
  await expect(
    page
      .getByRole("navigation", { name: "Clients" })
      .getByText(/cut, \d+ wait/)
      .first(),
  ).toBeVisible();
  await page.goto("/sources?client=brackenwheel");
  await expect(page.getByText("map not confirmed").first()).toBeVisible();
  await page.goto(`/sources/${id}?client=brackenwheel`);
  await page.getByRole("link", { name: "Look at the map and confirm" }).first().click();

  await expect(page.getByText("Nothing of this form flows.")).toBeVisible();
  await expect(page.getByLabel("eml goes to")).toHaveValue("email");
  await expect(page.locator("[data-row=tel1] [data-value]")).toHaveText(/ask me/);
  await page.getByLabel("contactNm goes to").selectOption("Full name");
  await page.getByRole("button", { name: "The next sample" }).click();
  await expect(page.locator("[data-row=tel1] [data-value]")).toHaveText("+447700900611");
  await expect(page.locator("[data-row=contactNm] [data-value]")).toHaveText("Ines · van der Calloway");

  const row = page.locator("[data-row=stalls]");
  await row.getByRole("button", { name: "Make a field of it" }).click();
  await row.getByLabel("The field's name").fill(`Stalls ${n}`);
  await row.getByLabel("What it holds").selectOption("number");
  await row.getByRole("button", { name: "Make the field" }).click();
  await expect(row.locator("[data-value]")).toHaveText("1250");
  await page.getByLabel("Add a fixed value").selectOption("Company");
  await page.getByLabel("The fixed value of Company").fill("Quillon Fairs");
  await page.getByRole("button", { name: "Confirm the map" }).click();
  await expect(page.getByText("confirmed", { exact: true })).toBeVisible();
  const lead = await leadOf(page.request, `mouse.${n}@example.com`);
  expect(lead.name).toBe("Ines van der Calloway");
  expect(Object.values(lead.fields)).toEqual(expect.arrayContaining(["1250", "Quillon Fairs"]));
});

test("a map is confirmed with keys alone, changed later, and earlier submissions are read again", async ({ browser }) => {
  const page = await as(browser, noor);
  const n = stamp();
  const id = await unmapped(page, `Keys ${n}`, [{ who: "Bram Tillotson", mailadres: `keys.${n}@example.com`, ring: "0113 496 0877" }]);
  await page.goto(`/sources/${id}/map?client=brackenwheel`);
  await expect(page.getByLabel("mailadres goes to")).toHaveValue("email");
  await page.getByLabel("ring goes to").focus();
  await page.keyboard.type("Message");
  await expect(page.getByLabel("ring goes to")).toHaveValue("message");
  await page.getByLabel("ring goes to").blur();
  await page.keyboard.press("c");
  await expect(page.getByText("confirmed", { exact: true })).toBeVisible();
  await leadOf(page.request, `keys.${n}@example.com`);

  await page.getByLabel("ring goes to").selectOption("Phone");
  await expect(page.getByText("changed, not confirmed")).toBeVisible();
  // Left and come back to: still there, still not confirmed.
  await page.goto("/?client=brackenwheel");
  await page.goBack();
  await expect(page.getByText("changed, not confirmed")).toBeVisible();
  await expect(page.getByLabel("ring goes to")).toHaveValue("phone");
  await page.getByRole("button", { name: "Confirm the map" }).click();
  await expect(page.getByText("1 lead would change")).toBeVisible();
  await page.getByRole("button", { name: "Process them again" }).click();
  await expect(page.getByText("Earlier submissions went through this map: 1 lead changed.")).toBeVisible();
  expect((await leadOf(page.request, `keys.${n}@example.com`)).phone).toBe("+441134960877");
});

test("an email of one with the number of another: merged, and taken back", async ({ browser, page: visitor }) => {
  const page = await as(browser, noor);
  const [one, two] = [person("4–9"), person("1–3")];
  await visit(visitor, one);
  await visit(visitor, two);
  await leadOf(page.request, one.email);
  await leadOf(page.request, two.email);
  await visit(visitor, { ...one, phone: two.phone });
  await page.goto("/leads/same?client=brackenwheel");
  const pair = page.getByRole("group").filter({ hasText: one.email });
  await pair.getByRole("button", { name: `One person, as Ines ${one.last}` }).click();
  await expect(pair.getByText("one person", { exact: true })).toBeVisible();
  await page.goto(`/leads?client=brackenwheel&q=${two.email}`);
  await page.getByRole("link", { name: `Ines ${one.last}` }).click();
  await expect(page.getByText(`Ines ${two.last} was merged in by Noor`, { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Take it back" }).click();
  await expect(page.getByText("may be two")).toBeVisible();
  await expect(
    page
      .getByText("took the merge back")
      .or(page.getByText(/was taken back/))
      .first(),
  ).toBeVisible();
  expect((await leadOf(page.request, two.email)).name).toBe(`Ines ${two.last}`);
});

test("double opt-in: nothing happens until the button behind the letter's link", async ({ browser, page: visitor }) => {
  const page = await as(browser, noor);
  const n = stamp();
  const email = `twice.${n}@example.com`;
  const id = await unmapped(page, `Twice ${n}`, [{ who: "Perpetua Lindqvist", mail: `first.${n}@example.com` }]);
  await page.goto(`/sources/${id}/map?client=brackenwheel`);
  await page.getByRole("button", { name: "Confirm the map" }).click();
  await expect(page.getByText("confirmed", { exact: true })).toBeVisible();
  await page.goto(`/sources/${id}?client=brackenwheel`);
  await page.getByLabel("Double opt-in").selectOption({ index: 1 });
  await page.getByRole("button", { name: "Ask them to confirm" }).click();
  await expect(page.getByRole("button", { name: "Ask them to confirm" })).toBeHidden();

  await visitor.goto(`${backlot}/pillarpost`);
  if ((await visitor.getByRole("button", { name: "a scanner follows every link" }).getAttribute("aria-pressed")) === "false")
    await visitor.getByRole("button", { name: "a scanner follows every link" }).click();
  const { form } = await (await page.request.get(`/api/forms/${id}`)).json();
  await page.request.post(`/in/${form.key}`, { data: { who: "Perpetua Lindqvist", mail: email }, headers: { accept: "application/json" } });
  const lead = await leadOf(page.request, email);
  await page.goto(`/leads/${lead.id}`);
  await expect(page.getByText("waits for them", { exact: true })).toBeVisible();

  await expect
    .poll(async () => (await (await visitor.request.get(`${backlot}/api/pillarpost/letters?to=${email}`)).json()).length, {
      timeout: 10_000,
    })
    .toBe(1);
  await visitor.goto(`${backlot}/pillarpost?inbox=${email}`);
  await visitor.waitForTimeout(400);
  await expect(page.getByText("waits for them", { exact: true })).toBeVisible();
  await visitor.getByRole("link", { name: /\/confirm\// }).click();
  await visitor.getByRole("button", { name: "Yes, it was me" }).click();
  await expect(visitor.getByRole("heading", { name: "Thank you." })).toBeVisible();
  await expect(page.getByText("Nobody has it.")).toBeVisible();
  await expect(page.getByText("confirmed by letter", { exact: false })).toBeVisible();
  await visitor.request.put(`${backlot}/api/pillarpost/scanner?on=false`);
});

test("the holding pen: one approved and lit, another refused with a reason and still there", async ({ browser, page: visitor }) => {
  const page = await as(browser, noor);
  const n = stamp();
  const id = await unmapped(page, `Held ${n}`, [{ who: "Jorun Ashdown", mail: `pen0.${n}@example.com` }]);
  await page.goto(`/sources/${id}/map?client=brackenwheel`);
  await page.getByRole("button", { name: "Confirm the map" }).click();
  await expect(page.getByText("confirmed", { exact: true })).toBeVisible();
  await page.goto(`/sources/${id}?client=brackenwheel`);
  await page.getByLabel("What waits for approval").selectOption("Everything waits for approval.");
  await page.getByRole("button", { name: "Keep this" }).click();
  await expect(page.getByRole("button", { name: "Keep this" })).toBeHidden();
  const { form } = await (await page.request.get(`/api/forms/${id}`)).json();
  for (const i of [1, 2])
    await visitor.request.post(form.postTo ?? `${new URL(page.url()).origin}/in/${form.key}`, {
      data: { who: `Odalys P${i}${n}`, mail: `pen${i}.${n}@example.com` },
    });

  await page.goto("/leads/pen?client=brackenwheel");
  await page.getByLabel(`Choose Odalys P1${n}`).check();
  await page.getByRole("button", { name: `Approve Odalys P1${n}` }).click();
  await expect(page.getByLabel(`Choose Odalys P1${n}`)).toHaveCount(0);
  const lead = await leadOf(page.request, `pen1.${n}@example.com`);
  await page.getByLabel(`Choose Odalys P2${n}`).check();
  await page.getByLabel("Why refused").fill("sells shoes");
  await page.getByRole("button", { name: `Refuse Odalys P2${n}` }).click();
  await expect(page.getByLabel(`Choose Odalys P2${n}`)).toHaveCount(0);
  await page.getByRole("button", { name: /Show the \d+ refused/ }).click();
  await expect(page.getByText("Refused by Noor Abernathy-Voss: sells shoes").first()).toBeVisible();
  await page.goto(`/leads/${lead.id}`);
  await expect(page.getByText("Noor Abernathy-Voss approved it")).toBeVisible();
});

test("leads are narrowed, chosen, tagged and taken away as a file", async ({ browser }) => {
  const page = await as(browser, noor);
  const tag = `push ${stamp()}`;
  await page.goto("/leads?client=brackenwheel&state=touched");
  await page.getByRole("button", { name: "More" }).click();
  await page.getByLabel("A field").selectOption("fleet size");
  await page.getByLabel("What stands in fleet size").fill("10–24");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/field=fleet_size&is=10/);
  // What was shown before is still there until the narrowed list has come, and takes its ticks with it.
  const all = page.getByLabel("Choose all on this page");
  await expect(() => all.check({ timeout: 2000 })).toPass();
  await page.getByLabel("Tag", { exact: true }).last().fill(tag);
  await page.getByRole("button", { name: "Tag", exact: true }).click();
  await expect(page.getByText(/\d+ changed\./)).toBeVisible();
  await page.goto(`/leads?client=brackenwheel&tag=${encodeURIComponent(tag)}&columns=tags,fleet_size`);
  await expect(page.getByRole("cell", { name: "10–24" }).first()).toBeVisible();
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "CSV" }).click()]);
  expect(file.suggestedFilename()).toMatch(/^leads-.*\.csv$/);
  await page.getByRole("button", { name: "Keep this view" }).click();
  await page.getByLabel("The view's name").fill(tag);
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await expect(page.getByRole("button", { name: `Forget “${tag}”` })).toBeVisible();
});
