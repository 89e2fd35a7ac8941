import { type Browser, test as base, expect, type Page } from "@playwright/test";

export const backlot = process.env.BACKLOT_URL ?? "http://127.0.0.1:5090";
const server = process.env.LITFUSE_URL ?? "http://127.0.0.1:5080";

/** A page of somebody signed in. What a page logs as an error fails the test. */
export async function as(browser: Browser, email: string, options: Parameters<Browser["newContext"]>[0] = {}): Promise<Page> {
  const context = await browser.newContext({
    baseURL: server,
    viewport: { width: 1280, height: 800 },
    reducedMotion: "reduce",
    ...options,
  });
  const answer = await context.request.post("/api/session", { data: { email, password: "strike-a-light-5080" } });
  expect(answer.ok()).toBe(true);
  return context.newPage();
}

export const noor = "noor@quillonstreet.example";
export const imke = "imke@brackenwheel.example";

let people = 0;

/** A person whom nobody has seen yet. Their number is from a range for drama that the demonstration does not use. */
export function person(fleet: string) {
  people += 1;
  const n = `${Date.now().toString(36)}${people}`;
  return {
    first: "Ines",
    last: `Calloway-${n}`,
    email: `ines.${n}@example.com`,
    phone: `0113 4960 ${String((Date.now() + people) % 1000).padStart(3, "0")}`,
    fleet,
  };
}

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
      expect(errors).toEqual([]);
    },
    { auto: true },
  ],
});
export { expect };
