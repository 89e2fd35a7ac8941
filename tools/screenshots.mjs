// Takes the pictures in docs/screenshots from a running demonstration: node tools/screenshots.mjs [view...]
// LITFUSE_URL and BACKLOT_URL say where; OUT says where to put them.
import { mkdirSync, readFileSync } from "node:fs";
import { chromium } from "@playwright/test";

const base = process.env.LITFUSE_URL ?? "http://127.0.0.1:5080";
const backlot = process.env.BACKLOT_URL ?? "http://127.0.0.1:5090";
const out = process.env.OUT ?? "docs/screenshots";
const password = "strike-a-light-5080";
mkdirSync(out, { recursive: true });

const chrome = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
});

async function signedIn(email, options = {}) {
  const context = await chrome.newContext({ viewport: { width: 1280, height: 800 }, reducedMotion: "reduce", ...options });
  const page = await context.newPage();
  page.on("console", (m) => m.type() === "error" && console.log(`console: ${m.text()}`));
  page.on("pageerror", (e) => console.log(`error: ${e.message}`));
  if (email) {
    const answer = await context.request.post(`${base}/api/session`, { data: { email, password } });
    if (!answer.ok()) throw new Error(`sign-in of ${email}: ${answer.status()}`);
  }
  return page;
}

const noor = "noor@quillonstreet.example";
const get = async (page, path) => (await page.request.get(base + path)).json();
const fuseOf = async (page) => (await get(page, "/api/fuses?client=brackenwheel")).fuses.find((f) => f.name.startsWith("Test ride: tell")).id;
const leadOf = async (page, state) => (await get(page, `/api/leads?client=brackenwheel&q=25%2B+plaza&state=${state}`)).items[0] ?? (await get(page, "/api/leads?q=25%2B")).items[0];
// The example of 25 steps, read in once.
const largeOf = async (page) => {
  const name = "Test ride: two times offered, asked again, handed over";
  const there = (await get(page, "/api/fuses?client=brackenwheel")).fuses.find((f) => f.name === name);
  if (there) return there.id;
  const token = (await page.context().cookies()).find((c) => c.name === "XSRF-TOKEN").value;
  const made = await page.request.post(`${base}/api/fuses`, {
    headers: { "X-XSRF-TOKEN": token },
    data: { client: "brackenwheel", file: readFileSync("docs/examples/test-ride.fuse.json", "utf8") },
  });
  return (await made.json()).id;
};
const sourceOf = async (page, kind) => (await get(page, "/api/sources?client=brackenwheel")).sources.find((s) => s.kind === kind).id;
const settle = async (page) => {
  await page.waitForTimeout(400);
  await page.waitForFunction(() => !/^Fetching /m.test(document.body.innerText));
  await page.waitForTimeout(900);
};

const views = {
  "sign-in": async () => {
    const page = await signedIn(null);
    await page.goto(base);
    return page;
  },
  watch: async () => {
    const page = await signedIn(noor);
    await page.goto(base);
    await page.getByRole("listitem").first().waitFor();
    return page;
  },
  map: async () => {
    const page = await signedIn(noor);
    const form = (await get(page, "/api/forms?client=tarn-valley")).forms.find((f) => f.name === "School fairs").id;
    await page.goto(`${base}/sources/${form}/map?client=tarn-valley`);
    return page;
  },
  pen: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/leads/pen`);
    return page;
  },
  "watch-dark": async () => {
    const page = await signedIn(noor, { colorScheme: "dark" });
    await page.goto(base);
    await page.getByRole("listitem").first().waitFor();
    return page;
  },
  "watch-phone": async () => {
    const page = await signedIn("imke@brackenwheel.example", { viewport: { width: 390, height: 844 } });
    await page.goto(base);
    return page;
  },
  leads: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/leads`);
    return page;
  },
  lead: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/leads/${(await leadOf(page, "")).id}`);
    return page;
  },
  "lead-phone": async () => {
    const page = await signedIn("imke@brackenwheel.example", { viewport: { width: 390, height: 844 } });
    await page.goto(`${base}/leads/${(await leadOf(page, "")).id}`);
    return page;
  },
  sources: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/sources`);
    return page;
  },
  form: async () => {
    const page = await signedIn(noor);
    const forms = (await get(page, "/api/forms?client=brackenwheel")).forms;
    await page.goto(`${base}/sources/${forms.find((f) => f.sourceKind === "plaza" && f.name === "Test ride").id}`);
    await page.getByRole("button", { name: "Prove it from Plaza" }).click();
    await page.getByText("proved", { exact: true }).waitFor();
    return page;
  },
  source: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/sources/from/${await sourceOf(page, "plaza")}?client=brackenwheel`);
    return page;
  },
  "ways-in": async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/sources/new?client=brackenwheel`);
    return page;
  },
  builder: async () => {
    const page = await signedIn(noor);
    const forms = (await get(page, "/api/forms?client=brackenwheel")).forms;
    await page.goto(`${base}/sources/${forms.find((f) => f.key === "brackenwheel-test-ride").id}/build?client=brackenwheel`);
    return page;
  },
  import: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/sources/new/file?client=brackenwheel`);
    const text = "Name;E-Mail;Telefon;Größe der Flotte;Datum\nOdalys Fenwick;odalys@example.com;0113 496 0201;4–9;24.11.2026\nJorun Zeller;jorun@example.org;0113 496 0202;25+;24.11.2026\nOdalys Fenwick;odalys@example.com;0113 496 0201;4–9;24.11.2026\nUlric Varga;;;10–24;23.11.2026\n";
    await page.getByLabel("The file").setInputFiles({ name: "trade fair.csv", mimeType: "text/csv", buffer: Buffer.from(text) });
    await page.getByText("How it is read").waitFor();
    return page;
  },
  fuses: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/fuses`);
    return page;
  },
  "run-sheet": async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/fuses/${await fuseOf(page)}?client=brackenwheel&step=text`);
    await page.getByRole("status", { name: "Preview" }).waitFor();
    return page;
  },
  "run-sheet-dark": async () => {
    const page = await signedIn(noor, { colorScheme: "dark" });
    await page.goto(`${base}/fuses/${await fuseOf(page)}?client=brackenwheel&open=dry`);
    await page.getByRole("button", { name: "Next moment" }).waitFor();
    return page;
  },
  "run-sheet-large": async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/fuses/${await largeOf(page)}?client=brackenwheel`);
    return page;
  },
  "run-sheet-large-dark": async () => {
    const page = await signedIn(noor, { colorScheme: "dark" });
    await page.goto(`${base}/fuses/${await largeOf(page)}?client=brackenwheel`);
    return page;
  },
  backtest: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/fuses/${await fuseOf(page)}?client=brackenwheel&open=backtest`);
    await page.getByRole("button", { name: "Put them through" }).click();
    await page.getByRole("button", { name: "Another backtest" }).waitFor();
    await page.getByText("Leads put through").waitFor({ state: "detached" });
    return page;
  },
  burns: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/fuses/burns?client=brackenwheel`);
    return page;
  },
  "go-to": async () => {
    const page = await signedIn(noor);
    await page.goto(base);
    await page.getByRole("listitem").first().waitFor();
    await page.keyboard.press("Control+k");
    await page.keyboard.type("ride");
    return page;
  },
  setup: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/setup?client=brackenwheel`);
    return page;
  },
  deliveries: async () => {
    const page = await signedIn(noor);
    await page.goto(`${base}/deliveries?client=brackenwheel`);
    return page;
  },
  ridgeboard: async () => {
    const page = await signedIn(null);
    await page.goto(`${backlot}/ridgeboard`);
    return page;
  },
  backlot: async () => {
    const page = await signedIn(null);
    await page.goto(backlot);
    return page;
  },
};

const wanted = process.argv.slice(2);
for (const name of wanted.length ? wanted : Object.keys(views)) {
  const page = await views[name]();
  await settle(page);
  await page.screenshot({ path: `${out}/${name}.png` });
  console.log(name);
  await page.context().close();
}
await chrome.close();
