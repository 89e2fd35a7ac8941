import { execFileSync } from "node:child_process";
import type { Page } from "@playwright/test";
import { as, backlot, database, expect, noor, person, server, test } from "./people";

const client = "brackenwheel";

/** Asks the API as the page would. */
async function ask(page: Page, method: string, path: string, data?: unknown) {
  const token = (await page.context().cookies()).find((c) => c.name === "XSRF-TOKEN")?.value ?? "";
  const answer = await page.request.fetch(path, { method, data, headers: { "X-XSRF-TOKEN": decodeURIComponent(token) } });
  expect(answer.ok(), `${method} ${path}: ${answer.status()} ${answer.ok() ? "" : await answer.text()}`).toBe(true);
  return answer.status() === 204 || answer.status() === 202 ? null : answer.json();
}

const always = (...steps: unknown[]) => [{ id: "b1", name: "Always", entry: { kind: "always" }, steps }];
const step = (id: string, kind: string, settings: Record<string, string>, afterSeconds = 0) => ({
  id,
  name: id,
  kind,
  moment: { afterSeconds },
  settings,
  hours: { kind: "none" },
});
const text = (words: string, afterSeconds = 0) => step("text", "text", { words }, afterSeconds);
const post = (words: string) => step("post", "channel-post", { channel: "#ride-desk", words });

/** A form that the page has already, its map confirmed, and where wanted a fuse that it lights, armed. */
async function formOf(page: Page, name: string, fields: Record<string, string>, bands?: unknown[]) {
  await page.goto(`/sources?client=${client}`);
  await expect(page.getByRole("heading", { name: "Sources" })).toBeVisible();
  const { sources } = await ask(page, "GET", `/api/sources?client=${client}`);
  const { id } = await ask(page, "POST", "/api/forms", {
    sourceId: sources.find((s: { kind: string }) => s.kind === "website").id,
    name,
    built: false,
  });
  const { form } = await ask(page, "GET", `/api/forms/${id}`);
  await ask(page, "PUT", `/api/forms/${id}/map`, {
    version: 0,
    rows: Object.entries(fields).map(([formField, leadField]) => ({ formField, leadField })),
  });
  return { id: id as string, key: form.key as string, fuse: bands ? await armed(page, name, form.key, bands) : "" };
}

async function armed(page: Page, name: string, form: string, bands: unknown[]): Promise<string> {
  const definition = { schema: 2, name, litBy: [{ event: "submission", only: { form: [form] } }], bands };
  const { id } = await ask(page, "POST", "/api/fuses", { client, kit: null, file: JSON.stringify(definition), form });
  await ask(page, "POST", `/api/fuses/${id}/arm`, { revision: 1 });
  return id;
}

const send = async (page: Page, key: string, answers: Record<string, string>) => {
  const answer = await page.request.post(`/in/${key}`, { data: answers, headers: { accept: "application/json" } });
  expect(answer.status()).toBe(202);
};

const found = async (page: Page, email: string, total = 1) => {
  await expect
    .poll(async () => (await (await page.request.get(`/api/leads?q=${encodeURIComponent(email)}`)).json()).total, { timeout: 15_000 })
    .toBe(total);
  return (await (await page.request.get(`/api/leads?q=${encodeURIComponent(email)}`)).json()).items[0];
};

const mapped = { first_name: "first_name", last_name: "last_name", email: "email", phone: "phone" };

test("a number that was corrected says STOP, and the lead gets no more texts", async ({ browser }) => {
  const page = await as(browser, noor);
  const [who, other] = [person("1–3"), person("1–3")];
  const { key } = await formOf(page, `Corrections ${who.last}`, mapped, always(text("Hello {{ lead.first_name }}")));
  const sent = { id: `own-${who.last}`, first_name: who.first, last_name: who.last, email: who.email, phone: who.phone };
  await send(page, key, sent);
  const lead = await found(page, who.email);
  await send(page, key, { ...sent, phone: other.phone });
  await expect.poll(async () => (await found(page, who.email)).phone).not.toBe(lead.phone);
  const corrected: string = (await found(page, who.email)).phone;
  const stopped = await page.request.post(`${backlot}/api/copperline/phones/${encodeURIComponent(corrected)}/texts`, {
    data: { to: "+447700900512", text: "STOP" },
  });
  expect(stopped.ok()).toBe(true);
  await page.goto(`/leads/${lead.id}?client=${client}`);
  await expect(page.getByText(/Not possible: they/)).toBeVisible();
  await expect(page.getByText("STOP", { exact: true }).first()).toBeVisible();
});

test("two people who typed 00000 are two leads", async ({ browser }) => {
  const page = await as(browser, noor);
  const [one, two] = [person("1–3"), person("4–9")];
  const { key } = await formOf(page, `Noughts ${one.last}`, mapped);
  for (const who of [one, two]) await send(page, key, { first_name: who.first, last_name: who.last, email: who.email, phone: "00000" });
  const [first, second] = [await found(page, one.email), await found(page, two.email)];
  expect(first.id).not.toBe(second.id);
  await page.goto(`/leads?client=${client}&q=${one.email}`);
  await expect(page.getByRole("link", { name: `${one.first} ${one.last}` })).toBeVisible();
  await page.goto(`/leads/same?client=${client}`);
  await expect(page.getByText(one.email)).toHaveCount(0);
});

test("a dry run with an ad network's lead shows what they answered there", async ({ browser }) => {
  const page = await as(browser, noor);
  const who = person("10–24");
  const filled = await page.request.post(`${backlot}/plaza/fill/pf-brackenwheel-ride`, {
    form: { full_name: `${who.first} ${who.last}`, email: who.email, fleet_size: "10–24", cargo: "food" },
  });
  expect(filled.ok()).toBe(true);
  await page.goto(`/fuses?client=${client}`);
  const { items } = await (async () => {
    await found(page, who.email);
    return (await page.request.get(`/api/leads?q=${encodeURIComponent(who.email)}`)).json();
  })();
  const { forms } = await ask(page, "GET", `/api/forms?client=${client}`);
  const form = forms.find((f: { key: string }) => f.key === "brackenwheel-plaza-test-ride");
  const id = await armed(page, `Rehearsed ${who.last}`, form.key, always(post("They answered:\n{{ answers }}")));
  await page.goto(`/fuses/${id}?client=${client}`);
  await page.getByRole("button", { name: "Dry run" }).click();
  const panel = page.getByRole("complementary", { name: "Dry run" });
  await panel.getByLabel("With the answers of").selectOption(items[0].id);
  await expect(panel.getByRole("list", { name: "What happens" })).toContainText("10–24");
});

test("of two rules the one that is left shows what is kept", async ({ browser }) => {
  const page = await as(browser, noor);
  const who = person("1–3");
  const rules = {
    match: "all",
    rules: [
      { field: "first_name", op: "contains", values: ["Ines"] },
      { field: "last_name", op: "contains", values: ["Calloway"] },
    ],
  };
  const { fuse } = await formOf(page, `Rules ${who.last}`, mapped, [
    { id: "b1", name: "Known", entry: { kind: "when", rules }, steps: [post("x")] },
  ]);
  await page.goto(`/fuses/${fuse}?client=${client}`);
  await page.getByRole("button", { name: /^When first name/ }).click();
  const values = page.getByLabel("Values, with commas between them");
  await expect(values).toHaveCount(2);
  await page.getByRole("button", { name: "Take this rule out" }).first().click();
  await expect(values).toHaveValue("Calloway");
  await expect(page.getByText(/draft of .* by Noor/)).toBeVisible();
  const { definition } = await ask(page, "GET", `/api/fuses/${fuse}`);
  expect(definition.bands[0].entry.rules.rules.map((r: { values: string[] }) => r.values)).toEqual([["Calloway"]]);
  await page.keyboard.press("Control+z");
  await expect(values).toHaveCount(2);
  await expect(values.first()).toHaveValue("Ines");
});

test("a fuse is armed in the very moment of an edit, and nobody stands in their own way", async ({ browser }) => {
  const page = await as(browser, noor);
  const who = person("1–3");
  const { fuse } = await formOf(page, `Quick ${who.last}`, mapped, always(post("Once")));
  await page.goto(`/fuses/${fuse}?client=${client}`);
  await page.getByRole("button", { name: /^post/ }).click();
  const words = page.getByLabel("Words", { exact: true });
  for (const [edit, wait] of [
    ["Twice", 0],
    ["Three times", 1150],
    ["Four times", 1250],
  ] as const) {
    await words.fill(edit);
    // Before it is kept by itself, just as it is, and a moment after.
    await page.waitForTimeout(wait);
    const arm = page.getByRole("button", { name: /^Arm v/ });
    const label = ((await arm.textContent()) ?? "").replace("Arm ", "");
    await arm.click();
    await expect(page.getByText(`armed · ${label}`)).toBeVisible();
    await expect(page.getByText(/saved this draft|saved it last/)).toHaveCount(0);
    const { armed: now } = await ask(page, "GET", `/api/fuses/${fuse}`);
    expect(now.bands[0].steps[0].settings.words).toBe(edit);
  }
});

test("a burn that cannot be decided stands on the Watch, and once mended is run again", async ({ browser }) => {
  const { PGBIN, PGPORT } = process.env;
  test.skip(!PGBIN || !PGPORT, "no database of its own to damage a row in");
  const sql = (statement: string) =>
    execFileSync(`${PGBIN}/psql`, ["-h", "127.0.0.1", "-p", PGPORT ?? "", "-U", "litfuse", "-d", database, "-qAtc", statement]);
  const page = await as(browser, noor);
  const who = person("1–3");
  const { key, fuse } = await formOf(page, `Damaged ${who.last}`, mapped, always(text("Hello {{ lead.first_name }}", 12)));
  await send(page, key, { first_name: who.first, last_name: who.last, email: who.email, phone: who.phone });
  const lead = await found(page, who.email);
  const burning = async () => (await (await page.request.get(`/api/burns?fuse=${fuse}`)).json()).items.length;
  await expect.poll(burning).toBe(1);
  const name = (stepId: string) =>
    sql(`update burns set state = jsonb_set(state, '{steps,0,stepId}', '"${stepId}"') where lead_id = '${lead.id}'`);
  name("gone");
  await page.goto(`/?client=${client}`);
  await expect(page.getByRole("group", { name: `Burns of Damaged ${who.last} set aside` })).toBeVisible({ timeout: 30_000 });
  name("text");
  await page.goto(`/leads/${lead.id}?client=${client}`);
  await page.getByRole("button", { name: "Run it again" }).click();
  await expect(page.getByText(`Hello ${who.first}`).first()).toBeVisible({ timeout: 20_000 });
});

test("a form's page saves one part and keeps what is unsaved in another", async ({ browser }) => {
  const page = await as(browser, noor);
  const who = person("1–3");
  const { id } = await formOf(page, `Parts ${who.last}`, mapped);
  await page.goto(`/sources/${id}?client=${client}`);
  await page.getByLabel("Double opt-in").selectOption("yes");
  await page.getByLabel("Subject").fill("Was it you?");
  await page.getByLabel("Visitors land on").fill("https://brackenwheel.example/half-typed");
  await page.getByLabel("What waits for approval").selectOption("all");
  await page.getByRole("button", { name: "Keep this" }).click();
  await expect(page.getByRole("button", { name: "Keep this" })).toHaveCount(0);
  await expect(page.getByLabel("What waits for approval")).toHaveValue("all");
  await expect(page.getByLabel("Subject")).toHaveValue("Was it you?");
  await expect(page.getByLabel("Visitors land on")).toHaveValue("https://brackenwheel.example/half-typed");
  await page.getByRole("button", { name: "Ask them to confirm" }).click();
  await expect(page.getByRole("button", { name: "Ask them to confirm" })).toHaveCount(0);
  const whole = await ask(page, "GET", `/api/forms/${id}`);
  expect([whole.hold.kind, whole.optIn.subject, whole.thankYouUrl]).toEqual(["all", "Was it you?", null]);
});

test("a phone that was renamed on a form that sends visitors through cuts its line", async ({ browser }) => {
  test.setTimeout(150_000);
  const page = await as(browser, noor);
  const who = person("1–3");
  const { id, key } = await formOf(page, `Through ${who.last}`, mapped, always(text("Hello {{ lead.first_name }}")));
  const through = async (name: string) => {
    for (let n = 0; n < 6; n++) {
      const one = person("1–3");
      const query = new URLSearchParams({ first_name: one.first, last_name: one.last, email: one.email, [name]: one.phone });
      const gone = await page.request.get(`/through/${key}?${query}`, { maxRedirects: 0 });
      expect([303, 200]).toContain(gone.status());
    }
  };
  await through("phone");
  await page.goto(`/sources/${id}?client=${client}`);
  const line = page
    .getByRole("region", { name: "Its line" })
    .or(page.getByRole("group", { name: /^The line of/ }))
    .first();
  const state = async () => (await ask(page, "GET", `/api/forms/${id}/line`)).line?.state;
  await expect.poll(state, { timeout: 60_000 }).toBe("whole");
  await through("mobile_no");
  await expect.poll(state, { timeout: 60_000 }).toBe("cut");
  const { line: cut } = await ask(page, "GET", `/api/forms/${id}/line`);
  expect(cut.cuts[0].cause).toMatch(/phone/i);
  await page.reload();
  await expect(line.or(page.getByText(cut.cuts[0].cause)).first()).toBeVisible();
});

test("under a host's strict policy the trap is hidden, and the answers go at once by the browser's own post", async ({ browser, page }) => {
  const who = person("1–3");
  const policy = `default-src 'self'; script-src ${server}; form-action *`;
  const host = await (await browser.newContext({ permissions: ["local-network-access"] })).newPage();
  await host.route(`${backlot}/strict`, (route) =>
    route.fulfill({
      contentType: "text/html",
      headers: { "content-security-policy": policy },
      body: `<!doctype html><html lang="en"><title>Ride</title><div id="here"><script src="${server}/f/brackenwheel-test-ride.js"></script></div></html>`,
    }),
  );
  await host.goto(`${backlot}/strict`);
  await host.getByLabel("First name").fill(who.first);
  await host.getByLabel("Last name").fill(who.last);
  await host.getByLabel("Email").fill(who.email);
  await host.getByLabel("Mobile number").fill(who.phone);
  await host.getByLabel("How many bikes").selectOption(who.fleet);
  await host.getByLabel("What do you carry?").selectOption("food");
  await expect(host.getByLabel("Leave this empty")).toBeHidden();
  await host.getByRole("button", { name: "Send" }).click();
  await host.waitForURL(/thank-you/, { timeout: 5000 });
  const signed = await as(browser, noor);
  await found(signed, who.email);
  await host.context().close();
  await page.goto("about:blank");
});
