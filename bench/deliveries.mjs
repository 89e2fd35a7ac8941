// Drives bench/deliveries: arms fuses, sends submissions at a steady rate, switches faults, and counts what stands on the other side.
// node bench/deliveries.mjs arm|load|fault|drained|down-right|once|page SERVER BACKLOT …
import { syllables } from "./syllables.mjs";
import { readFileSync } from "node:fs";
import { signIn } from "./signIn.mjs";

const [, , what, server, backlot, ...rest] = process.argv;
const headers = { ...(await signIn(server)), "content-type": "application/json" };
async function ask(path, method = "GET", body = undefined) {
  const answer = await fetch(server + path, { method, headers, body: body && JSON.stringify(body) });
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${text}`);
  return text ? JSON.parse(text) : undefined;
}
const seen = async (path) => (await fetch(`${backlot}/api/seen/${path}`)).json();
const rest1 = (ms) => new Promise((then) => setTimeout(then, ms));
const key = "brackenwheel-test-ride";

const step = (id, kind, settings, afterSeconds = 0) => ({ id, name: id, kind, moment: { afterSeconds }, settings });
const contact = (id, note, after) =>
  step(
    id,
    "crm-contact",
    { match: "email", "fields.first_name": "{{ lead.first_name }}", "fields.last_name": "{{ lead.last_name }}", "fields.email": "{{ lead.email }}", note },
    after,
  );
const post = step("post", "channel-post", { channel: "#ride-desk", words: "{{ lead.email }}" });
const ticket = step("ticket", "ticket", { queue: "RIDE", again: "add", summary: "{{ lead.email }}" });
const fuses = {
  down: [post, contact("first", "first"), contact("second", "second", 2)],
  once: [
    contact("contact", "one"),
    ticket,
    step("row", "sheet-row", { sheet: "rides", tab: "asked", mode: "add", "columns.Email": "{{ lead.email }}" }),
    step("card", "address-card", { whose: "book", book: "/dav/books/everybody/", name: "{{ lead.name }}", phone: "{{ lead.phone }}", email: "{{ lead.email }}" }),
  ],
  post: [post],
  people: [
    step("post", "channel-post", { channel: "#ride-desk", words: "{{ lead.name }} asks.", blocks: "answers", links: "lead,take" }),
    step("text", "text", { words: "{{ lead.first_name }}, thank you for asking about {{ lead.fleet_size }} bikes." }),
    step("letter", "email", { subject: "Your test ride", words: "{{ lead.first_name }}, thank you.", blocks: "answers" }),
    step("notice", "notice", { colleague: "ME", words: "{{ lead.name }} asks." }),
  ],
  ring: [step("ring", "ring-through", { colleagues: "REP", order: "in-turn", words: "{{ lead.name }} asks.", "ring-for": "10" })],
};
const idOf = async (email) => {
  const answer = await fetch(`${server}/api/session`, { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify({ email, password: "strike-a-light-5080" }) });
  return (await answer.json()).id;
};

async function arm(steps) {
  for (const f of (await ask("/api/fuses?client=brackenwheel")).fuses.filter((x) => x.state === "armed")) await ask(`/api/fuses/${f.id}/disarm`, "POST");
  const { id } = await ask("/api/fuses", "POST", { client: "brackenwheel" });
  const definition = {
    name: "Bench",
    litBy: [{ event: "submission", only: { form: [key] } }],
    relight: "always",
    bands: [{ id: "always", name: "Always", entry: { kind: "always" }, steps }],
  };
  const whole = await ask(`/api/fuses/${id}/draft`, "PUT", { definition, revision: 1 });
  if (whole.faults.length) throw new Error(JSON.stringify(whole.faults));
  await ask(`/api/fuses/${id}/arm`, "POST", { revision: 2 });
}

let person = Date.now() % 1e9;
// Keys side by side, or one key held down: such numbers look like junk, and are taken for it.
const junk = /0123|1234|2345|3456|4567|5678|6789|9876|8765|7654|6543|5432|4321|3210|(\d)\1{3}/;
const phoneOf = (n) => `+4420${String(10_000_000 + (n % 90_000_000))}`;
async function send(sent) {
  while (junk.test(phoneOf(person))) person++;
  const n = person++;
  const email = `ines.${syllables(n)}@example.com`;
  // Numbers of their own, so that nobody is taken for somebody else.
  const phone = phoneOf(n);
  const body = JSON.stringify({ id: email, first_name: "Ines", last_name: "Calloway", email, phone, fleet_size: "4–9", cargo: "food" });
  const answer = await fetch(`${server}/in/${key}`, { method: "POST", headers: { "content-type": "application/json" }, body });
  if (answer.status !== 202) throw new Error(`refused: ${answer.status}`);
  await answer.arrayBuffer();
  sent.push(email);
}
async function load(perSecond, count) {
  const sent = [];
  const began = performance.now();
  const under = [];
  for (let n = 0; n < count; n++) {
    const wait = began + (n * 1000) / perSecond - performance.now();
    if (wait > 0) await rest1(wait);
    under.push(send(sent));
  }
  await Promise.all(under);
  return sent;
}
const fault = async (service, mode) => {
  const answer = await fetch(`${backlot}/api/faults/${service}`, { method: "PUT", headers: { "content-type": "application/json" }, body: JSON.stringify({ mode }) });
  if (!answer.ok) throw new Error(await answer.text());
};
async function drained(name, most = 600) {
  const began = performance.now();
  for (;;) {
    const { queues } = await ask("/api/deliveries?client=brackenwheel");
    const waiting = queues.filter((q) => !name || q.name.toLowerCase() === name).reduce((sum, q) => sum + q.waiting, 0);
    if (waiting === 0) return (performance.now() - began) / 1000;
    if (performance.now() - began > most * 1000) throw new Error(`${waiting} still wait after ${most} s`);
    await rest1(1000);
  }
}
const countBy = (rows, of) => {
  const counts = new Map();
  for (const row of rows) counts.set(of(row), (counts.get(of(row)) ?? 0) + 1);
  return counts;
};

switch (what) {
  case "arm": {
    const [me, rep] = [await idOf("noor@quillonstreet.example"), await idOf("imke@brackenwheel.example")];
    await arm(JSON.parse(JSON.stringify(fuses[rest[0]]).replaceAll('"ME"', `"${me}"`).replaceAll('"REP"', `"${rep}"`)));
    break;
  }
  case "rang": {
    // Lines of call id and when they asked; against when the phone of the first of the team rang at the carrier.
    const asked = new Map(readFileSync(rest[0], "utf8").trim().split("\n").map((l) => l.split("|")));
    const rings = (await (await fetch(`${backlot}/api/copperline/calls`)).json()).filter((c) => c.tag?.endsWith(".0") && asked.has(c.tag.split(".")[0]));
    const ms = rings.map((c) => Date.parse(c.at) - Number(asked.get(c.tag.split(".")[0])) * 1000).sort((a, b) => a - b);
    const at = (p) => ms[Math.min(ms.length - 1, Math.floor(ms.length * p))]?.toFixed(0);
    console.log(`${asked.size} asked, ${ms.length} phones rang: p50 ${at(0.5)} ms, p99 ${at(0.99)} ms, at most ${at(1)} ms`);
    if (ms.length !== asked.size) process.exitCode = 1;
    break;
  }
  case "load":
    for (const email of await load(Number(rest[0]), Number(rest[0]) * Number(rest[1]))) console.log(email);
    break;
  case "fault":
    await fault(rest[0], rest[1]);
    break;
  case "drained":
    console.log((await drained(rest[0])).toFixed(0));
    break;
  case "down-right": {
    const emails = rest.flatMap((f) => readFileSync(f, "utf8").trim().split("\n"));
    const contacts = new Map();
    for (const c of await seen("ledgerhouse/contacts")) contacts.set(c.values.email, [...(contacts.get(c.values.email) ?? []), c]);
    const lost = emails.filter((e) => !contacts.has(e)).length;
    const doubled = emails.filter((e) => (contacts.get(e)?.length ?? 0) > 1 || contacts.get(e)?.[0].changes > 2).length;
    const disordered = emails.filter((e) => contacts.get(e)?.[0].notes.join() !== "first,second").length;
    console.log(`of ${emails.length} leads ${lost} lost, ${doubled} doubled, ${disordered} out of order`);
    if (lost || doubled || disordered) process.exitCode = 1;
    break;
  }
  case "once": {
    const services = ["ledgerhouse", "gridlet", "jobrack", "namewell"];
    let on = true;
    // In turn: it works, takes and breaks off, does all twice, works, is busy.
    const trouble = (async () => {
      for (let turn = 0; on; turn++) {
        for (const [i, service] of services.entries()) await fault(service, ["none", "half", "repeat", "none", "half", "busy"][(turn + i) % 6]);
        await rest1(1500);
      }
    })();
    const emails = await load(60, Number(rest[0]));
    on = false;
    await trouble;
    await fetch(`${backlot}/api/faults`, { method: "DELETE" });
    const took = await drained(undefined);
    const there = {
      contacts: countBy(await seen("ledgerhouse/contacts"), (c) => c.values.email),
      rows: countBy(await seen("gridlet/rides/asked"), (r) => r.cells.Email),
      tickets: countBy(await seen("jobrack/tickets"), (t) => t.summary),
      cards: countBy(await seen("namewell/cards"), (c) => c.text.match(/^EMAIL:(.*)\r$/m)?.[1]),
    };
    const wrong = Object.entries(there).map(([name, counts]) => [name, emails.filter((e) => counts.get(e) !== 1).length]);
    console.log(`all there ${took.toFixed(0)} s after the last; of ${emails.length} leads not exactly once: ${wrong.map(([n, c]) => `${n} ${c}`).join(", ")}`);
    if (wrong.some(([, c]) => c > 0)) process.exitCode = 1;
    break;
  }
  case "page": {
    const connection = (await ask("/api/connections?client=brackenwheel")).connections.find((c) => c.kind === "ridgeboard").id;
    let after = "";
    for (let page = 0; page < 5; page++) after = (await ask(`/api/deliveries${after && `?after=${after}`}`)).next;
    const day = (d) => new Date(Date.now() - d * 86_400_000).toISOString();
    const queries = ["", "?client=brackenwheel", "?state=failed", "?state=stuck", `?connection=${connection}&client=brackenwheel`, `?after=${after}`, "?search=calloway", "?lane=team", `?client=brackenwheel&from=${day(30)}&to=${day(29)}`];
    const figures = [];
    for (const query of queries) {
      const times = [];
      for (let n = 0; n < 40; n++) {
        const began = performance.now();
        await ask(`/api/deliveries${query}`);
        times.push(performance.now() - began);
      }
      times.sort((a, b) => a - b);
      figures.push({ query: query.replace(/=[0-9a-f.T:Z-]{20,}/g, "=…") || "all", p95: times[37] });
    }
    console.log(figures.map((f) => `${f.query} p95 ${f.p95.toFixed(0)} ms`).join("; "));
    if (figures.some((f) => f.p95 > 150)) process.exitCode = 1;
    break;
  }
  default:
    throw new Error(`What is '${what}'?`);
}
