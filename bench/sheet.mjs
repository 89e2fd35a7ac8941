// Drives bench/sheet: opens a large fuse in Chromium, edits it, and says how long each edit took to be drawn.
import { chromium } from "@playwright/test";
import { signIn } from "./signIn.mjs";

const [, , server, edits] = process.argv;
const headers = { ...(await signIn(server)), "content-type": "application/json" };
const ask = async (path, method, body) => {
  const answer = await fetch(server + path, { method, headers, body: JSON.stringify(body) });
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`);
  return answer.json();
};
const moments = [0, 10, 60, 300, 3600];
const kinds = [
  ["channel-post", { channel: "#ride-desk", words: "{{ lead.name }} asked for {{ lead.fleet_size }} bikes" }],
  ["text", { words: "{{ lead.first_name }}, thank you for asking." }],
  ["direct-post", { person: "imke.sandoval", words: "Ring {{ lead.name }}: {{ lead.phone }}" }],
  ["tag", { tag: "asked" }],
  ["email", { subject: "Your ride", words: "Hello {{ lead.first_name }}" }],
];
const fuse = async (name, bandCount, stepCount) => {
  const bands = Array.from({ length: bandCount }, (_, b) => ({
    id: `b${b}`,
    name: `Case ${b + 1}`,
    entry: b === 0 ? { kind: "always" } : { kind: "on", event: "tagged", only: { tag: [`case ${b}`] } },
    // Steps are dealt out to the bands in turn.
    steps: Array.from({ length: Math.floor((stepCount - b - 1) / bandCount) + 1 }, (_, s) => {
      const [kind, settings] = kinds[(s + b) % kinds.length];
      return { id: `b${b}s${s}`, name: `Step ${b + 1}.${s + 1}`, kind, moment: { afterSeconds: moments[s] }, settings };
    }),
  }));
  const { id } = await ask("/api/fuses", "POST", { client: "brackenwheel" });
  const litBy = [{ event: "submission", only: { form: ["brackenwheel-test-ride"] } }];
  await ask(`/api/fuses/${id}/draft`, "PUT", { definition: { name, litBy, bands }, revision: 1 });
  return id;
};
const small = await fuse("Six bands, fifteen steps", 6, 15);
const large = await fuse("Twelve bands, sixty steps", 12, 60);

// A server that has just begun is still being compiled; this is about one that has been up for a while.
for (let n = 0; n < 150; n++)
  for (const path of ["/api/session", `/api/fuses/${n % 2 ? small : large}`, "/api/frame", "/api/notices", "/api/fuses"]) await ask(path, "GET");

const browser = await chromium.launch({ executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium" });
const context = await browser.newContext({ baseURL: server, viewport: { width: 1280, height: 800 } });
await context.request.post("/api/session", { data: { email: "noor@quillonstreet.example", password: "strike-a-light-5080" } });
const page = await context.newPage();

// Until the sheet stands and takes edits: from the start of the navigation, with what ships with the application in the
// cache; and from the press in the list of fuses.
// Looked at by the page itself, frame by frame, so that asking from outside costs nothing.
await context.addInitScript(() => {
  globalThis.editable = (steps) =>
    new Promise((done) => {
      const look = () => {
        const tickets = document.querySelectorAll("[data-step]");
        if (tickets.length === steps && tickets[0].draggable) done(performance.now());
        else requestAnimationFrame(look);
      };
      look();
    });
  const asked = Number(new URLSearchParams(location.hash.slice(1)).get("steps"));
  if (asked) globalThis.opened = globalThis.editable(asked);
});
const loading = async (id, steps) => {
  const took = [];
  for (let n = 0; n < 20; n++) {
    await page.goto("about:blank");
    await page.goto(`/fuses/${id}#steps=${steps}`);
    took.push(await page.evaluate(() => globalThis.opened));
    await page.waitForTimeout(300);
  }
  return took.slice(4);
};
const pressing = async (name, steps) => {
  const took = [];
  for (let n = 0; n < 20; n++) {
    await page.goto("/fuses");
    const link = page.getByRole("link", { name });
    await link.waitFor();
    await page.waitForTimeout(500);
    took.push(
      await link.evaluate(async (a, n) => {
        const began = performance.now();
        a.click();
        return (await globalThis.editable(n)) - began;
      }, steps),
    );
  }
  return took.slice(4);
};
const opened = [await loading(small, 15), await pressing("Six bands, fifteen steps", 15), await loading(large, 60), await pressing("Twelve bands, sixty steps", 60)];
await page.goto(`/fuses/${large}`);
await page.evaluate(() => globalThis.editable(60));

// An edit to its picture: from the key going down to the frame after the one in which the change was made.
const drawn = (act) =>
  page.evaluate(
    (what) =>
      new Promise((done) => {
        const ticket = document.querySelector(`[data-step="${what.step}"]`);
        ticket?.focus();
        const began = performance.now();
        if (what.key) ticket.dispatchEvent(new KeyboardEvent("keydown", { key: what.key, altKey: true, bubbles: true, cancelable: true }));
        else if (what.typed) {
          const box = document.querySelector("textarea");
          Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, "value").set.call(box, what.typed);
          box.dispatchEvent(new Event("input", { bubbles: true }));
        } else ticket.click();
        requestAnimationFrame(() => {
          const channel = new MessageChannel();
          channel.port1.onmessage = () => done(performance.now() - began);
          channel.port2.postMessage(0);
        });
      }),
    act,
  );
const [moved, clicked, typed] = [[], [], []];
for (let n = 0; n < Number(edits); n++) {
  moved.push(await drawn({ step: `b${n % 12}s${n % 5}`, key: n % 2 ? "ArrowLeft" : "ArrowRight" }));
  await page.waitForTimeout(30);
}
for (let n = 0; n < Number(edits) / 2; n++) {
  clicked.push(await drawn({ step: `b${n % 12}s1` }));
  await page.waitForTimeout(60);
}
await page.waitForTimeout(500);
for (let n = 0; n < Number(edits) / 2; n++) {
  typed.push(await drawn({ step: "none", typed: `Thank you for asking${".".repeat(n)}` }));
  await page.waitForTimeout(30);
}
const at = (of, share) => of.toSorted((a, b) => a - b)[Math.min(of.length - 1, Math.floor(of.length * share))].toFixed(0);
const told = (of) => `p50 ${at(of, 0.5)} ms, p95 ${at(of, 0.95)} ms`;
console.log(`6 bands, 15 steps: page loaded to editable ${told(opened[0])}; pressed in the list to editable ${told(opened[1])}`);
console.log(`12 bands, 60 steps: page loaded to editable ${told(opened[2])}; pressed in the list to editable ${told(opened[3])}`);
console.log(`an edit to its picture: a step moved by key ${told(moved)}; a step opened ${told(clicked)}; a letter typed into its words ${told(typed)}`);
await browser.close();
