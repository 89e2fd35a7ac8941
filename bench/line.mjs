// Sends submissions at a steady rate, twice, and says how long after each acknowledgement its post stood in Ridgeboard.
// node bench/line.mjs SERVER BACKLOT PER-SECOND SECONDS CLOCK-SHIFT-SECONDS
import { syllables } from "./syllables.mjs";

const [, , server, backlot, rate, seconds, shift] = process.argv;
const now = () => performance.timeOrigin + performance.now();
let person = Date.now() % 1e9;
const acknowledged = new Map();
const refused = [];

async function send() {
  const mark = `ines.${syllables(person++)}@example.com`;
  const body = JSON.stringify({ id: mark, first_name: "Ines", last_name: "Calloway", email: mark, fleet_size: "4–9", cargo: "food" });
  const answer = await fetch(`${server}/in/brackenwheel-test-ride`, { method: "POST", headers: { "content-type": "application/json" }, body }).catch((e) => e);
  const at = now();
  if (answer.status === 202) {
    await answer.arrayBuffer();
    acknowledged.set(mark, at);
  } else refused.push(answer.status ?? String(answer));
}

const posts = async () => (await fetch(`${backlot}/api/ridgeboard/posts?channel=%23ride-desk`)).json();
const markOf = (post) => post.text.match(/ines\.[a-z]+@example\.com/)?.[0];
async function measure() {
  acknowledged.clear();
  const total = rate * seconds;
  const began = now();
  const under = [];
  for (let n = 0; n < total; n++) {
    const wait = began + (n * 1000) / rate - now();
    if (wait > 0) await new Promise((then) => setTimeout(then, wait));
    under.push(send());
  }
  await Promise.all(under);

  let came = new Map();
  for (let tries = 0; tries < 150; tries++) {
    came = new Map();
    for (const post of await posts()) came.set(markOf(post), [...(came.get(markOf(post)) ?? []), post]);
    if ([...acknowledged.keys()].every((mark) => came.has(mark))) break;
    await new Promise((then) => setTimeout(then, 200));
  }
  const after = [];
  let lost = 0;
  let doubled = 0;
  for (const [mark, at] of acknowledged) {
    const found = came.get(mark);
    if (!found) lost++;
    else {
      if (found.length > 1) doubled++;
      after.push(Date.parse(found[0].at) - shift * 1000 - at);
    }
  }
  after.sort((a, b) => a - b);
  const at = (share) => `${Math.max(0, after[Math.min(after.length - 1, Math.floor(share * after.length))]).toFixed(0)} ms`;
  console.log(`p50 ${at(0.5)}, p95 ${at(0.95)}, p99 ${at(0.99)}, most ${at(1)}; of ${acknowledged.size} acknowledged ${lost} lost, ${doubled} doubled, ${refused.length} refused`);
  if (lost || doubled || refused.length) process.exitCode = 1;
}

// Two lines: the first thirty seconds of a server just started, and the thirty after.
for (let i = 0; i < 20; i++) await send();
await measure();
await measure();
