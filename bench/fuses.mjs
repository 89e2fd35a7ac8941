// Drives bench/fuses: arms fuses, sends submissions at a steady rate, and says how long after each acknowledgement all was there.
// node bench/fuses.mjs five|waiting|load SERVER [BACKLOT PER-SECOND SECONDS CLOCK-SHIFT-SECONDS]
import { syllables } from "./syllables.mjs";
import { signIn } from "./signIn.mjs";

const [, , what, server, backlot, rate, seconds, shift] = process.argv;
const headers = { ...(await signIn(server)), "content-type": "application/json" };
async function ask(path, method = "GET", body = undefined) {
  const answer = await fetch(server + path, { method, headers, body: body && JSON.stringify(body) });
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${text}`);
  return text ? JSON.parse(text) : undefined;
}
const now = () => performance.timeOrigin + performance.now();
const post = (id, kind, target, words) => ({ id, name: id, kind, moment: { afterSeconds: 0 }, settings: { ...target, words } });
const always = (...steps) => [{ id: "always", name: "Always", entry: { kind: "always" }, steps }];

async function arm(definition) {
  const { id } = await ask("/api/fuses", "POST", { client: "brackenwheel" });
  await ask(`/api/fuses/${id}/draft`, "PUT", { definition, revision: 1 });
  return { id, whole: await ask(`/api/fuses/${id}/arm`, "POST", { revision: 2 }) };
}

const mark = "{{ lead.email }}";
const key = "brackenwheel-test-ride";
if (what === "waiting") {
  // A fuse that nothing lights; its burns are written straight into the database.
  const { id } = await arm({ name: "Waits", litBy: [{ event: "by-hand" }], bands: always(post("late", "channel-post", { channel: "#booth-quotes" }, "due")) });
  const lead = (await ask("/api/leads?client=brackenwheel")).items[0].id;
  console.log(id, lead);
  process.exit(0);
}

if (what === "five") {
  // The demonstration's own fuse on this form would add to the load.
  const other = (await ask("/api/fuses?client=brackenwheel")).fuses.find((f) => f.name.startsWith("Test ride"));
  await ask(`/api/fuses/${other.id}/disarm`, "POST");
  await arm({
    name: "Five steps",
    litBy: [{ event: "submission", only: { form: [key] } }],
    relight: "always",
    bands: always(
      post("desk", "channel-post", { channel: "#ride-desk" }, `1 ${mark}`),
      post("marquees", "channel-post", { channel: "#marquee-dates" }, `2 ${mark}`),
      post("imke", "direct-post", { person: "imke.sandoval" }, `3 ${mark}`),
      { id: "tag", name: "tag", kind: "tag", moment: { afterSeconds: 0 }, settings: { tag: "benched" } },
      post("link", "direct-post", { person: "tobias.renn" }, `4 ${mark} {{ steps.desk.url }}`),
    ),
  });
}

let person = Date.now() % 1e9;
const acknowledged = new Map();
let refused = 0;
async function send() {
  const email = `ines.${syllables(person++)}@example.com`;
  const body = JSON.stringify({ id: email, first_name: "Ines", last_name: "Calloway", email, fleet_size: "4–9", cargo: "food" });
  const answer = await fetch(`${server}/in/${key}`, { method: "POST", headers: { "content-type": "application/json" }, body }).catch(() => null);
  const at = now();
  if (answer?.status === 202) acknowledged.set(email, at);
  else refused++;
  await answer?.arrayBuffer();
}

async function load(perSecond, long) {
  const began = now();
  const under = [];
  for (let n = 0; n < perSecond * long; n++) {
    const wait = began + (n * 1000) / perSecond - now();
    if (wait > 0) await new Promise((then) => setTimeout(then, wait));
    under.push(send());
  }
  await Promise.all(under);
}

if (what === "five") {
  // The runtime compiles the hot path while it is first used.
  for (const [perSecond, long] of [[20, 20], [60, 30]]) {
    await load(perSecond, long);
    await new Promise((then) => setTimeout(then, 10_000));
  }
}
acknowledged.clear();
await load(rate, seconds);

// Five steps are four posts and a tag; the last is one that waited for another's result.
const wanted = 4;
let came = new Map();
for (let tries = 0; tries < 120; tries++) {
  came = new Map();
  for (const place of ["#ride-desk", "#marquee-dates", "@imke.sandoval", "@tobias.renn"]) {
    for (const p of await (await fetch(`${backlot}/api/ridgeboard/posts?channel=${encodeURIComponent(place)}`)).json()) {
      const email = p.text.match(/^[1-4] (\S+@example\.com)/)?.[1];
      if (email) came.set(email, [...(came.get(email) ?? []), Date.parse(p.at) - shift * 1000]);
    }
  }
  if ([...acknowledged.keys()].every((email) => (came.get(email)?.length ?? 0) >= wanted)) break;
  await new Promise((then) => setTimeout(then, 500));
}
const after = [...acknowledged].map(([email, at]) => Math.max(...(came.get(email) ?? [Number.POSITIVE_INFINITY])) - at).sort((a, b) => a - b);
const lost = [...acknowledged.keys()].filter((email) => (came.get(email)?.length ?? 0) < wanted).length;
const doubled = [...acknowledged.keys()].filter((email) => (came.get(email)?.length ?? 0) > wanted).length;
const at = (share) => `${Math.max(0, after[Math.min(after.length - 1, Math.floor(share * after.length))]).toFixed(0)} ms`;
console.log(`p50 ${at(0.5)}, p95 ${at(0.95)}, p99 ${at(0.99)}, most ${at(1)}; of ${acknowledged.size} acknowledged ${lost} lost, ${doubled} doubled, ${refused} refused`);
if (lost || doubled || refused) process.exitCode = 1;
