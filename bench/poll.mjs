// Puts many responses at Tradehall, all due at once, and waits until the last is findable among the leads.
// node bench/poll.mjs 10000
const many = Number(process.argv[2] ?? 10_000);
const base = process.env.LITFUSE_URL ?? "http://127.0.0.1:5080";
const backlot = process.env.BACKLOT_URL ?? "http://127.0.0.1:5090";
const signIn = await fetch(`${base}/api/session`, {
  method: "POST",
  headers: { "content-type": "application/json" },
  body: JSON.stringify({ email: "noor@quillonstreet.example", password: "strike-a-light-5080" }),
});
const cookies = signIn.headers.getSetCookie().map((c) => c.split(";")[0]);
const token = decodeURIComponent(cookies.find((c) => c.startsWith("XSRF-TOKEN=")).slice("XSRF-TOKEN=".length));
const headers = { cookie: cookies.join("; "), "X-XSRF-TOKEN": token };
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
