// Puts many responses at Tradehall, all due at once, and waits until the last is findable among the leads.
// node bench/poll.mjs 10000
import { signIn } from "./signIn.mjs";

const many = Number(process.argv[2] ?? 10_000);
const base = process.env.LITFUSE_URL ?? "http://127.0.0.1:5080";
const backlot = process.env.BACKLOT_URL ?? "http://127.0.0.1:5090";
const headers = await signIn(base);
const ask = async (path) => (await fetch(base + path, { headers })).json();
const source = (await ask("/api/sources?client=brackenwheel")).sources.find((s) => s.kind === "tradehall");
const form = source.forms.find((f) => f.name === "Fleet enquiry");
await fetch(`${backlot}/tradehall/many/tf-brackenwheel-fleet/${many}`, { method: "POST" });
const began = performance.now();
await fetch(`${base}/api/sources/${source.id}/refresh`, { method: "POST", headers });
const until = async (holds) => {
  while (!(await holds())) await new Promise((then) => setTimeout(then, 250));
  return ((performance.now() - began) / 1000).toFixed(1);
};
const kept = await until(async () => (await ask(`/api/forms/${form.id}`)).form.submissions >= form.submissions + many);
const read = await until(async () => (await ask("/api/leads?client=brackenwheel&q=maren.+underhay")).total >= many);
console.log(`${many} waiting responses: all on disk after ${kept} s, all leads after ${read} s`);
