import { type Browser, type BrowserContext, test as base, expect, type Page } from "@playwright/test";

// Each worker has a server, a Backlot and a database of its own, where ./test started several.
const own = (name: string) => process.env[`${name}_${process.env.TEST_PARALLEL_INDEX}`] ?? process.env[name];
export const backlot = own("BACKLOT_URL") ?? "http://127.0.0.1:5090";
export const server = own("LITFUSE_URL") ?? "http://127.0.0.1:5080";
export const database = own("LITFUSE_DATABASE") ?? "litfuse_browser";

// Pages left open go on living, and the tests after them with ever less of the processor.
const opened: BrowserContext[] = [];

/** A page of somebody signed in. What a page logs as an error fails the test. */
export async function as(browser: Browser, email: string, options: Parameters<Browser["newContext"]>[0] = {}): Promise<Page> {
  const context = await browser.newContext({
    baseURL: server,
    viewport: { width: 1280, height: 800 },
    reducedMotion: "reduce",
    ...options,
  });
  opened.push(context);
  const answer = await context.request.post("/api/session", { data: { email, password: "strike-a-light-5080" } });
  expect(answer.ok()).toBe(true);
  return context.newPage();
}

export const noor = "noor@quillonstreet.example";
export const imke = "imke@brackenwheel.example";

let people = 0;

/** A number as a word that can be said: letters and figures mixed look like junk, and are taken for it. */
const syllables = (n: number): string =>
  (n < 50 ? "" : syllables(Math.floor(n / 50))) + "bdfklmnrst"[Math.floor((n % 50) / 5)] + "aeiou"[n % 5];

/** A person whom nobody has seen yet. Their number is from the ranges for drama that the demonstration leaves alone. */
export function person(fleet: string) {
  people += 1;
  // It only grows, also past a failure, after which a new process counts anew: for an hour no two people share a number and
  // become one lead.
  const n = Math.floor(Date.now() / 2000) + people + 400 * Number(process.env.TEST_WORKER_INDEX ?? 0);
  const name = syllables(n);
  return {
    first: "Ines",
    last: `Calloway-${name}`,
    email: `ines.${name}@example.com`,
    phone: `${n % 2000 < 1000 ? "0113 4960 " : "029 2018 0"}${String(n % 1000).padStart(3, "0")}`,
    fleet,
  };
}

/** Their number as networks write it (E.164). */
export const e164 = (who: { phone: string }) => `+44${who.phone.replaceAll(" ", "").slice(1)}`;

/** Fills in the landing page's form as a visitor and sends it. */
export async function visit(page: Page, who: ReturnType<typeof person>) {
  await page.goto(`${backlot}/pagewright/brackenwheel/book-a-test-ride`);
  await page.getByLabel("First name").fill(who.first);
  await page.getByLabel("Last name").fill(who.last);
  await page.getByLabel("Email").fill(who.email);
  await page.getByLabel("Mobile number").fill(who.phone);
  await page.getByLabel("How many bikes").selectOption(who.fleet);
  await page.getByLabel("What do you carry?").selectOption("food");
  await page.getByRole("button", { name: "Send" }).click();
  await page.waitForURL(/thank-you/);
}

export const test = base.extend<{ errors: string[] }>({
  errors: [
    async ({ page }, use) => {
      const errors: string[] = [];
      page.on("pageerror", (e) => errors.push(e.message));
      page.on("console", (m) => m.type() === "error" && !/status of 4\d\d|ERR_FAILED/.test(m.text()) && errors.push(m.text()));
      await use(errors);
      for (const context of opened.splice(0)) await context.close();
      expect(errors).toEqual([]);
    },
    { auto: true },
  ],
});
export { expect };
