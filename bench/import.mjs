// Uploads a CSV, starts the import and waits until its last row is findable among the leads; says rows a second and how
// much memory the server grew by. SERVER_PID=… node bench/import.mjs leads.csv tarn-valley
import { readFileSync, statSync } from "node:fs";
import { signIn } from "./signIn.mjs";

const [file, client = "tarn-valley"] = process.argv.slice(2);
const base = process.env.LITFUSE_URL ?? "http://127.0.0.1:5080";
const headers = await signIn(base);
const ask = async (path) => (await fetch(base + path, { headers })).json();
const tell = (path, body) => fetch(base + path, { method: "POST", headers: { ...headers, "content-type": "application/json" }, body: JSON.stringify(body) });
const memory = () => (process.env.SERVER_PID ? Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${process.env.SERVER_PID}/status`, "utf8"))[1]) / 1024 : 0);

const text = readFileSync(file, "utf8").trimEnd();
const rows = text.split("\n").length - 1;
const last = text.slice(text.lastIndexOf("\n") + 1).split(",")[1];
const before = memory();
const began = performance.now();
const upload = await fetch(`${base}/api/imports?client=${client}&name=bench.csv`, { method: "POST", headers: { ...headers, "content-type": "application/octet-stream" }, body: readFileSync(file) });
const { id } = await upload.json();
const uploaded = performance.now();
await tell(`/api/imports/${id}/start`, { lights: false });
let most = 0;
let line;
do {
  await new Promise((then) => setTimeout(then, 200));
  most = Math.max(most, memory());
  line = (await ask(`/api/imports/${id}`)).import;
} while (line.status === "running");
let found = 0;
while (found === 0) found = (await ask(`/api/leads?client=${client}&q=${encodeURIComponent(last)}`)).total;
const seconds = (performance.now() - began) / 1000;
console.log(
  `${rows} rows (${(statSync(file).size / 1e6).toFixed(1)} MB) from upload to findable in ${seconds.toFixed(1)} s (upload and look ${((uploaded - began) / 1000).toFixed(1)} s): ${Math.round(rows / seconds)} rows/s; ` +
    `${line.newLeads} new, ${line.updates} updates, ${line.doubles} here already, ${line.badRows} not readable; server's memory ${before.toFixed(0)} → ${most.toFixed(0)} MB at most; ${line.status}`,
);
