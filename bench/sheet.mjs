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
  ["letter", { subject: "Your ride", words: "Hello {{ lead.first_name }}" }],
];
const bands = Array.from({ length: 12 }, (_, b) => ({
  id: `b${b}`,
  name: `Case ${b + 1}`,
  entry: b === 0 ? { kind: "always" } : { kind: "on", event: "tagged", only: { tag: [`case ${b}`] } },
  steps: kinds.map(([kind, settings], s) => ({ id: `b${b}s${s}`, name: `Step ${b + 1}.${s + 1}`, kind, moment: { afterSeconds: moments[s] }, settings })),
}));
const { id } = await ask("/api/fuses", "POST", { client: "brackenwheel" });
await ask(`/api/fuses/${id}/draft`, "PUT", {
  definition: { name: "Twelve bands, sixty steps", litBy: [{ event: "submission", only: { form: ["brackenwheel-test-ride"] } }], bands },
  revision: 1,
});

const browser = await chromium.launch({ executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium" });
const context = await browser.newContext({ baseURL: server, viewport: { width: 1280, height: 800 } });
await context.request.post("/api/session", { data: { email: "noor@quillonstreet.example", password: "strike-a-light-5080" } });
const page = await context.newPage();

// From the start of the navigation to when the sheet stands and takes edits, with what ships with the application in the cache.
const opened = [];
for (let n = 0; n < 12; n++) {
  await page.goto("about:blank");
  await page.goto(`/fuses/${id}`);
  await page.waitForFunction(() => document.querySelectorAll("[data-step]").length === 60 && document.querySelector("[data-step]").draggable);
  opened.push(await page.evaluate(() => performance.getEntriesByName("sheet")[0]?.startTime ?? performance.now()));
}

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
console.log(`run sheet of 12 bands and 60 steps: opened to editable ${told(opened.slice(2))}`);
console.log(`an edit to its picture: a step moved by key ${told(moved)}; a step opened ${told(clicked)}; a letter typed into its words ${told(typed)}`);
await browser.close();
