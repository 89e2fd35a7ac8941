import type { Page } from "@playwright/test";
import type { Schemas } from "@/api/client";
import { as, backlot, expect, noor, person, test } from "./people";

const date = "Is your date free?";
const ad = "pf-tarn-valley-date";

/** Tarn Valley's page of the Watch, its lines beside it. */
const watch = (page: Page) => page.goto("/?client=tarn-valley");
const line = (page: Page, form: string) => page.getByRole("group", { name: `The line of ${form}` });

/** What the Backlot's people press. */
async function outside(page: Page, path: string, given: Record<string, string> = {}) {
  const answer = await page.request.post(`${backlot}${path}`, { form: given });
  expect(answer.ok()).toBe(true);
}

/** Sees a cut on the Watch, goes where its mend leads, mends it there, and sees the Watch without it. */
async function mended(page: Page, form: string, cause: string | RegExp, link: string, mend: () => Promise<void>) {
  await watch(page);
  await expect(line(page, form)).toContainText(cause, { timeout: 75_000 });
  await line(page, form).getByRole("link", { name: link }).click();
  await mend();
  await watch(page);
  await expect(page.getByRole("heading", { name: "In the air" })).toBeVisible();
  await expect(line(page, form).filter({ hasText: cause })).toHaveCount(0);
}

/** Has the line of a form looked at again. */
async function lookAgain(page: Page, form = date) {
  await page.goto("/sources?client=tarn-valley");
  await page.getByRole("link", { name: form, exact: true }).first().click();
  await page.getByRole("button", { name: "Look again" }).click();
  await expect(page.getByRole("button", { name: "Looking …" })).toHaveCount(0);
}

test.describe("a cut stands on the Watch with its mend, which opens the very place; mended, the line is whole again", () => {
  test("a form that is paused", async ({ browser }) => {
    const page = await as(browser, noor);
    await page.goto("/sources?client=tarn-valley");
    await page.getByRole("link", { name: date, exact: true }).first().click();
    await page.getByRole("button", { name: "Pause", exact: true }).click();
    await mended(page, date, "The form is paused: whatever comes will wait.", "Resume it; what waits goes on, in order", async () => {
      await page.getByRole("button", { name: "Resume" }).click();
      await expect(page.getByRole("button", { name: "Pause", exact: true })).toBeVisible();
    });

    // Mended, it is one press away from being proved, and then stands nowhere on the Watch.
    await page.getByRole("link", { name: `Prove ${date}` }).click();
    await page.getByRole("button", { name: "Prove it from Plaza" }).click();
    await expect(page.getByText("proved", { exact: true })).toBeVisible({ timeout: 30_000 });
    await watch(page);
    await expect(page.getByRole("heading", { name: "In the air" })).toBeVisible();
    await expect(page.getByRole("link", { name: `Prove ${date}` })).toHaveCount(0);
  });

  test("an ad that is stopped, a form that is archived", async ({ browser }) => {
    const page = await as(browser, noor);
    await outside(page, `/plaza/forms/${ad}/ad`, { ad: "stopped" });
    await lookAgain(page);
    await mended(page, date, "Its ad is stopped at Plaza: nobody is shown it.", "Start the ad at Plaza, then look again", async () => {
      await outside(page, `/plaza/forms/${ad}/ad`, { ad: "running" });
      await page.getByRole("button", { name: "Look now" }).click();
      await expect(page.getByRole("button", { name: "Looking …" })).toHaveCount(0);
    });

    await outside(page, `/plaza/forms/${ad}/archive`);
    await lookAgain(page);
    await mended(
      page,
      date,
      "The form is archived at Plaza: nobody can fill it in.",
      "Choose the form that took its place, or bring it back there",
      async () => {
        await outside(page, `/plaza/forms/${ad}/archive`);
        await page.getByRole("button", { name: "Look now" }).click();
        await expect(page.getByRole("button", { name: "Looking …" })).toHaveCount(0);
      },
    );
  });

  test("an access that is taken back, and a permission that is not given with the next", async ({ browser, page: there }) => {
    const page = await as(browser, noor);
    await there.goto(`${backlot}/plaza/access`);
    const rows = there.getByRole("button", { name: "Withdraw" });
    for (let n = await rows.count(); n > 0; n--) {
      await rows.nth(n - 1).click();
      await there.goto(`${backlot}/plaza/access`);
    }
    await lookAgain(page);
    await mended(
      page,
      date,
      "The access was taken back at Plaza.",
      "Connect Plaza again; what came meanwhile is fetched then",
      async () => {
        await page.getByRole("button", { name: "Connect again" }).click();
        await page.getByLabel("read what people answered").uncheck();
        await page.getByRole("button", { name: "Allow" }).click();
        await expect(page.getByText("access in part")).toBeVisible();
      },
    );
    await mended(page, date, "“read the answers” was not given", "Connect Plaza again and leave it ticked", async () => {
      await page.getByRole("button", { name: "Connect again" }).click();
      await page.getByRole("button", { name: "Allow" }).click();
      await expect(page.getByText("access whole")).toBeVisible();
    });
    // The other clients' access is given anew, too.
    for (const client of ["brackenwheel"]) {
      await page.goto(`/sources?client=${client}`);
      await page.getByRole("link", { name: "Plaza", exact: true }).click();
      await page.getByRole("button", { name: "Connect again" }).click();
      await page.getByRole("button", { name: "Allow" }).click();
      await expect(page.getByText("access whole")).toBeVisible();
    }
  });

  test("a fuse that is disarmed", async ({ browser }) => {
    const page = await as(browser, noor);
    await page.goto("/fuses?client=tarn-valley");
    const fuse = page.getByRole("listitem").filter({ hasText: "armed" }).getByRole("link").first();
    const name = (await fuse.textContent()) ?? "";
    await fuse.click();
    await page.getByRole("button", { name: "Disarm" }).click();
    await expect(page.getByText("disarmed", { exact: false }).first()).toBeVisible();
    await mended(page, date, `No armed fuse is lit by it: “${name}” is disarmed.`, `Arm “${name}”`, async () => {
      await page.getByRole("button", { name: /^Arm v\d+/ }).click();
      await expect(page.getByText(/^armed · v\d+/)).toBeVisible();
    });
  });

  test("a service that is paused, told once for all the lines through it", async ({ browser }) => {
    const page = await as(browser, noor);
    await page.goto("/setup?client=tarn-valley");
    const chat = page.getByRole("group", { name: "Ridgeboard of Tarn Valley" });
    await chat.getByRole("button", { name: "Pause Ridgeboard" }).click();
    await watch(page);
    const down = page.getByRole("group", { name: /^The line of/ }).filter({ hasText: "Ridgeboard is paused" });
    await expect(down).toHaveCount(1);
    await expect(down).toContainText("The same cuts");
    await down.getByRole("link", { name: "Resume Ridgeboard" }).click();
    // The very connection, brought into view.
    await expect(chat).toBeFocused();
    await expect(chat.getByText(/^\d lines: \d cut/)).toBeVisible();
    await chat.getByRole("button", { name: "Resume Ridgeboard" }).click();
    await watch(page);
    await expect(page.getByText("Ridgeboard is paused")).toHaveCount(0);
  });

  test("send hours that lie in the night, and everything held", async ({ browser }) => {
    const page = await as(browser, noor);
    await page.goto("/setup?client=tarn-valley");
    const [from, to] = [page.getByLabel("Leads are written to from"), page.getByLabel("until, on their own clock")];
    const before = [await from.inputValue(), await to.inputValue()] as const;
    const set = async (begin: string, end: string) => {
      await from.fill(begin);
      await to.fill(end);
      await page.getByRole("button", { name: "Keep these hours" }).click();
      await expect(page.getByRole("button", { name: "Keep these hours" })).toBeDisabled();
    };
    await set("23:00", "23:30");
    await watch(page);
    const down = page.getByRole("group", { name: /^The line of/ }).filter({ hasText: "never open within the night's rest from texts" });
    await down.first().getByRole("link", { name: "Set the hours" }).click();
    await expect(page.getByText("Hours and limits")).toBeInViewport();
    await set(...before);
    await watch(page);
    await expect(page.getByText("never open within")).toHaveCount(0);

    page.on("dialog", (d) => d.accept());
    await page.goto("/fuses?client=tarn-valley");
    await page.getByRole("button", { name: "Hold everything" }).click();
    await watch(page);
    const held = page.getByRole("group", { name: /^The line of/ }).filter({ hasText: "Everything is held for Tarn Valley, by Noor" });
    await held.first().getByRole("link", { name: "Let it go on" }).click();
    await page.getByRole("button", { name: "Let it go on" }).first().click();
    await watch(page);
    await expect(held).toHaveCount(0);
  });

  test("a thank-you page that does not answer, and a map that nobody has confirmed", async ({ browser }) => {
    test.setTimeout(240_000);
    const page = await as(browser, noor);
    const name = `Marquee tours ${Date.now().toString(36)}`;
    await page.goto("/sources?client=tarn-valley");
    await page.getByRole("link", { name: "Pagewright", exact: true }).click();
    await page.getByLabel("A new form, called").fill(name);
    await page.getByRole("button", { name: "The page has it already" }).click();
    await expect(page.getByRole("heading", { name, exact: true })).toBeVisible();
    const at = page.url();
    await page.getByLabel("Visitors land on").fill(`${backlot}/pagewright/nowhere`);
    await page.getByRole("button", { name: "Save", exact: true }).click();
    await mended(page, name, /does not answer: it answered 404/, "Look at the address", async () => {
      await page.getByLabel("Visitors land on").fill(`${backlot}/pagewright/brackenwheel/thank-you`);
      await page.getByRole("button", { name: "Save", exact: true }).click();
      await page.getByRole("button", { name: "Look again" }).click();
      await expect(page.getByRole("button", { name: "Looking …" })).toHaveCount(0);
    });

    const key = (
      (await page.request.get(`/api/forms/${at.split("/").at(-1)?.split("?")[0]}`).then((r) => r.json())) as { form: { key: string } }
    ).form.key;
    const who = person("1–3");
    expect((await page.request.post(`/in/${key}`, { data: { name: `${who.first} ${who.last}`, email: who.email } })).status()).toBe(202);
    await mended(page, name, "Nobody has confirmed the map, and 1 submission waits.", "Look at the map and confirm", async () => {
      await page.getByRole("button", { name: "Confirm the map" }).click();
      await expect(page.getByText("confirmed", { exact: true })).toBeVisible();
    });
    // Behind it stands the next: nothing happens when somebody sends it.
    await expect(line(page, name)).toContainText("No fuse is lit by it");
    await page.goto(at);
    await page.getByRole("button", { name: "Pause", exact: true }).click();
    await page.getByRole("button", { name: "It is meant to rest" }).click();
    await expect(page.getByText(/It is meant to rest, since/)).toBeVisible();
    await watch(page);
    await expect(page.getByRole("heading", { name: "In the air" })).toBeVisible();
    await expect(line(page, name)).toHaveCount(0);
  });
});

test("one refusal at the door is said at the source and on the line, cuts nothing, and is over with the next that is taken", async ({
  browser,
  page: there,
}) => {
  const page = await as(browser, noor);
  const fill = async () => {
    const who = person("4–9");
    await there.goto(`${backlot}/lanternfind/fill/lf-hollin-vane-booths`);
    await there.getByLabel("Your name").fill(`${who.first} ${who.last}`);
    await there.getByLabel("Email").fill(who.email);
    await there.getByLabel("How many booths?").selectOption("one");
    await there.getByLabel("When do you need them?").selectOption("this month");
    await there.getByRole("button", { name: "Send" }).click();
  };
  const key = async (to: string) => {
    await there.goto(`${backlot}/lanternfind/forms/lf-hollin-vane-booths`);
    const before = await there.getByLabel("Key").inputValue();
    await there.getByLabel("Key").fill(to);
    await there.getByRole("button", { name: "Save" }).click();
    return before;
  };
  const right = await key("not-the-key");
  await fill();
  await page.goto("/sources?client=hollin-vane");
  await page.getByRole("link", { name: "Lanternfind", exact: true }).click();
  await expect(page.getByText("it begins with “not-…”")).toBeVisible();
  await expect(page.getByRole("button", { name: "Show the key" })).toBeVisible();
  const { forms } = await (await page.request.get("/api/forms?client=hollin-vane")).json();
  const { id } = forms.find((f: { name: string }) => f.name === "Soundproof booths");
  const of = async (): Promise<Schemas["LineRow"]> => (await (await page.request.get(`/api/forms/${id}/line`)).json()).line;
  const words = async () => (await of()).joints.map((j) => j.words).join(" ");
  await expect.poll(words, { timeout: 75_000 }).toContain("1 submission was refused: The key in Lantern-Key is not this source's key");
  expect((await of()).cuts.filter((c) => c.joint === "access")).toEqual([]);
  await page.goto("/?client=hollin-vane");
  await expect(page.getByRole("heading", { name: "In the air" })).toBeVisible();
  await expect(line(page, "Soundproof booths")).toHaveCount(0);
  await key(right);
  await fill();
  await expect.poll(words, { timeout: 75_000 }).not.toContain("refused");
});

test("a line is proved from the network's own end, joint by joint, and says where the time went", async ({ browser }) => {
  const page = await as(browser, noor);
  await page.goto("/sources?client=tarn-valley");
  await page.getByRole("link", { name: date, exact: true }).first().click();
  await page.getByRole("button", { name: "Prove it from Plaza" }).click();
  await expect(page.getByText("proved", { exact: true })).toBeVisible({ timeout: 30_000 });
  await expect(page.getByText(/at the network, .* with us/).first()).toBeVisible();
  for (const joint of ["sent", "Plaza", "on disk", "map", "fuse", "Ridgeboard"])
    await expect(page.getByRole("listitem").filter({ hasText: joint }).last()).toBeVisible();
  await expect(page.getByRole("region", { name: "The line" }).getByText("whole", { exact: true })).toBeVisible();
  await page.getByRole("link", { name: "the test lead" }).first().click();
  await expect(page.getByText("test", { exact: true }).first()).toBeVisible();
});

test("a question that is asked under another name is found at the network, and one press mends the map", async ({ browser }) => {
  const page = await as(browser, noor);
  await outside(page, `/plaza/forms/${ad}/drop`, { ask: "phone" });
  await outside(page, `/plaza/forms/${ad}/ask`, { words: "Mobile number", choices: "" });
  await lookAgain(page);
  await expect(
    page.getByText("“phone” does not come any more; “mobile_number” comes in its place.", { exact: false }).first(),
  ).toBeVisible();
  await watch(page);
  await expect(line(page, date)).toContainText("“mobile_number” comes in its place");
  await line(page, date).getByRole("link", { name: "Map “mobile_number” to phone instead" }).click();
  await page.getByRole("button", { name: /^Map “mobile_number” to phone instead/ }).click();
  await expect(page.getByText(/Version \d+ of the map is confirmed\./)).toBeVisible();
  await watch(page);
  await expect(page.getByRole("heading", { name: "In the air" })).toBeVisible();
  await expect(line(page, date)).toHaveCount(0);
});

test("a form that had leads every few hours and has none for days is said to be silent, until the next", async ({ browser }) => {
  const page = await as(browser, noor);
  const key = "backlot-demo-hollin-vane-lanternfind";
  const name = `Quiet booths ${Date.now().toString(36)}`;
  const push = async (n: number, hoursAgo: number) => {
    const now = ((await page.request.get("/api/frame").then((r) => r.json())) as { now: string }).now;
    const answer = await page.request.post("/in/hollin-vane-lanternfind", {
      headers: { "Lantern-Key": key },
      data: {
        submission: `${name}-${n}`,
        asset: name,
        assetName: name,
        pressedAt: new Date(Date.parse(now) - hoursAgo * 3_600_000).toISOString(),
        trial: false,
        columns: [{ key: "email", column: "Email", value: `quiet.${n}.${name.replaceAll(" ", "")}@example.com` }],
      },
    });
    expect(answer.status()).toBe(202);
  };
  // By its sender's clock: one every four hours for three weeks, the last of them four days ago.
  for (let n = 0; n < 100; n++) await push(n, 96 + n * 4);
  await page.goto("/?client=hollin-vane");
  await expect(line(page, name)).toContainText(/This form usually has a lead every [\d.]+ h at these hours; none for 4 days\./, {
    timeout: 90_000,
  });
  await push(100, 0);
  await expect(line(page, name)).not.toContainText("none for", { timeout: 90_000 });
});

test("what a network never told of is found on its own list, fetched, and marked", async ({ browser, page: there }) => {
  test.setTimeout(150_000);
  const page = await as(browser, noor);
  await there.goto(backlot);
  await there.getByRole("row", { name: /Plaza/ }).getByRole("button", { name: "lose" }).click();
  await expect(there.getByText("plaza: lose")).toBeVisible();
  const people = Array.from({ length: 5 }, () => person("4–9"));
  for (const who of people)
    await outside(page, "/plaza/fill/pf-brackenwheel-ride", {
      full_name: `${who.first} ${who.last}`,
      email: who.email,
      fleet_size: "4–9",
      cargo: "food",
    });
  await there.getByRole("button", { name: "Everything works again" }).click();
  const here = async () => {
    const found = await Promise.all(
      people.map((who) =>
        page.request.get(`/api/leads?q=${encodeURIComponent(who.email)}`).then((r) => r.json() as Promise<{ items: unknown[] }>),
      ),
    );
    return found.filter((f) => f.items.length > 0).length;
  };
  await expect.poll(here).toBe(4);
  await page.waitForTimeout(16_000);
  await page.goto("/sources?client=brackenwheel");
  await page.getByRole("link", { name: "Plaza", exact: true }).click();
  await page.getByRole("button", { name: "Compare now" }).click();
  await expect(page.getByText(/on its list; 1 that nobody told us of is fetched|on its list, all of them here/)).toBeVisible();
  await expect.poll(here).toBe(5);
  await expect(page.getByRole("columnheader", { name: "recovered" })).toBeVisible();
  await page.getByRole("link", { name: "Test ride", exact: true }).first().click();
  await expect(page.getByText("recovered from the network's own list").first()).toBeVisible();
});
