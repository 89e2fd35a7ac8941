import { chromium } from "playwright-core";
const [,, path, out, w="1280", h="800", full] = process.argv;
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox","--disable-gpu"] });
const ctx = await browser.newContext({ baseURL: "http://127.0.0.1:5080", viewport: { width: +w, height: +h }, colorScheme: process.env.DARK ? "dark":"light" });
await ctx.request.post("/api/session", { data: { email: process.env.WHO ?? "noor@quillonstreet.example", password: "strike-a-light-5080" } });
const page = await ctx.newPage();
page.on("console", m => m.type()==="error" && console.log("console:", m.text()));
page.on("pageerror", e => console.log("pageerror:", e.message));
await page.goto(path); await page.waitForTimeout(1500);
if (process.env.DO) { await eval("(async()=>{"+process.env.DO+"})()"); await page.waitForTimeout(900); }
await page.screenshot({ path: out, fullPage: !!full });
await browser.close();
