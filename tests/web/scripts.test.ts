import { readFileSync } from "node:fs";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";

const read = (name: string) => readFileSync(`src/LitFuse.Server/Features/OwnForms/${name}`, "utf8");
const capture = read("capture.js");
const embed = read("embed.js");

// A page that is left takes its listeners along; here each must be taken off.
const heard: [string, EventListener][] = [];
const listen = window.addEventListener.bind(window);

let sent: { url: string; body: URLSearchParams }[];

beforeEach(() => {
  sent = [];
  sessionStorage.clear();
  localStorage.clear();
  history.replaceState(null, "", "/landing?utm_source=gazette&utm_campaign=may&xclid=c123");
  Object.defineProperty(navigator, "sendBeacon", {
    configurable: true,
    value: (url: string, body?: URLSearchParams) => sent.push({ url, body: new URLSearchParams(String(body ?? "")) }) > 0,
  });
});
afterEach(() => {
  leave();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
  document.body.innerHTML = "";
  Reflect.deleteProperty(window, "litfuse");
});

function leave() {
  for (const [name, listener] of heard.splice(0)) window.removeEventListener(name, listener);
}

/** Puts a page together and runs a script as its tag would. */
function page(html: string, script: string, tag: Record<string, string> = {}) {
  leave();
  window.addEventListener = ((name: string, listener: EventListener) => {
    heard.push([name, listener]);
    listen(name, listener);
  }) as typeof window.addEventListener;
  document.body.innerHTML = html;
  const element = document.createElement("script");
  element.setAttribute("src", "https://fuse.example/capture.js");
  for (const [name, value] of Object.entries(tag)) element.dataset[name] = value;
  Object.defineProperty(document, "currentScript", { configurable: true, get: () => element });
  new Function(script)();
  window.addEventListener = listen;
}

const press = (form: HTMLFormElement | null) => form?.dispatchEvent(new SubmitEvent("submit", { bubbles: true, cancelable: true }));

describe("the script that captures a page's own form", () => {
  const own = `<form id="own" method="post" action="/mine"><input name="who" value="Ines"><input name="id" value="booking-7">
    <input name="secret" type="password" value="hidden"><input name="card" autocomplete="cc-number" value="4111"><input name="cvc" value="987"><input type="file" name="photo">
    <input type="checkbox" name="want" value="a" checked><input type="checkbox" name="want" value="b"><select name="days" multiple><option selected>Mon</option><option selected>Tue</option></select></form>`;

  test("sends a copy by beacon with campaign values and what the page was, and changes nothing", () => {
    page(own, capture, { key: "visit" });
    const before = document.body.innerHTML;
    const form = document.querySelector("form");
    expect(press(form)).toBe(true);
    expect(document.body.innerHTML).toBe(before);
    expect(sent).toHaveLength(1);
    expect(sent[0]?.url).toBe("https://fuse.example/in/visit");
    const body = sent[0]?.body as URLSearchParams;
    expect(
      Object.fromEntries(["who", "utm_source", "utm_campaign", "click_id", "landing_path", "form_id"].map((n) => [n, body.get(n)])),
    ).toEqual({
      who: "Ines",
      utm_source: "gazette",
      utm_campaign: "may",
      click_id: "c123",
      landing_path: "/landing",
      form_id: "booking-7",
    });
    expect(body.getAll("days")).toEqual(["Mon", "Tue"]);
    expect(body.getAll("want")).toEqual(["a"]);
    expect(Number(body.get("lf_took"))).toBeGreaterThanOrEqual(0);
  });

  test("never reads passwords, card numbers or files", () => {
    page(own, capture, { key: "visit" });
    press(document.querySelector("form"));
    const text = String(sent[0]?.body);
    for (const private_ of ["hidden", "4111", "987", "photo", "secret", "cvc"]) expect(text).not.toContain(private_);
  });

  test("a second press is the same submission, another page load another", () => {
    page(own, capture, { key: "visit" });
    const form = document.querySelector("form");
    press(form);
    press(form);
    expect(sent[0]?.body.get("id")).toBe(sent[1]?.body.get("id"));
    page(own, capture, { key: "visit" });
    press(document.querySelector("form"));
    expect(sent.at(-1)?.body.get("id")).not.toBe(sent[0]?.body.get("id"));
  });

  test("leaves searches, our own forms, and forms that are not meant alone", () => {
    page(
      `<form id="s" role="search"></form><form id="g" method="get"></form><form id="l" class="lf-form" method="post"></form><form id="o" method="post" data-lf-off></form>`,
      capture,
      { key: "visit" },
    );
    for (const form of document.forms) press(form);
    expect(sent).toHaveLength(0);
    page(`<form id="a" method="post"></form><form id="b" method="get"><input name="x" value="1"></form>`, capture, {
      key: "visit",
      form: "#b",
    });
    for (const form of document.forms) press(form);
    expect(sent.at(-1)?.body.get("x")).toBe("1");
  });

  test("the first page's campaign is kept over the pages after it, and they are told", () => {
    page("", capture, { key: "visit" });
    history.replaceState(null, "", "/prices?utm_source=other");
    page(own, capture, { key: "visit" });
    press(document.querySelector("form"));
    expect(sent.at(-1)?.body.get("utm_source")).toBe("gazette");
    expect(sent.at(-1)?.body.get("pages_seen")).toBe("/landing /prices");
  });

  test("keeps an id of the browser only with consent, tells of a return, and forgets when told to", () => {
    page(own, capture, { key: "visit" });
    press(document.querySelector("form"));
    expect(sent[0]?.body.has("visitor_id")).toBe(false);
    expect(localStorage.length).toBe(0);
    const fuse = () => (window as unknown as { litfuse: { consent: (yes: boolean) => void } }).litfuse;
    fuse().consent(true);
    press(document.querySelector("form"));
    const visitor = sent.at(-1)?.body.get("visitor_id");
    expect(visitor).toBeTruthy();
    sent = [];
    page("", capture, { key: "visit" });
    expect(sent.map((s) => [s.url, s.body.get("visitor"), s.body.get("path")])).toEqual([
      ["https://fuse.example/visit/visit", visitor, "/landing"],
    ]);
    fuse().consent(false);
    expect(localStorage.getItem("lf_visitor")).toBeNull();
  });

  test("never throws into the page, whatever the browser lacks", () => {
    vi.spyOn(Storage.prototype, "getItem").mockImplementation(() => {
      throw new Error("no storage");
    });
    Object.defineProperty(navigator, "sendBeacon", {
      configurable: true,
      value: () => {
        throw new Error("no beacon");
      },
    });
    expect(() => {
      page(own, capture, { key: "visit" });
      press(document.querySelector("form"));
    }).not.toThrow();
  });
});

describe("the script beside a form that is built here", () => {
  const built = (more = "") => `<form class="lf-form" action="https://fuse.example/in/own" method="post" data-lf-key="own"${more}>
    <p><label for="e">Email</label><input id="e" name="email" value="i@example.com"></p><fieldset><legend>Want</legend><input type="checkbox" name="want" value="a" checked></fieldset>
    <input type="hidden" name="src" data-lf-tracks="utm_source"><p><button type="submit">Send</button></p></form>`;

  const answering = (status: number, body: unknown) => {
    const asked = vi.fn(async (_url: string, _init: RequestInit) => new Response(JSON.stringify(body), { status }));
    vi.stubGlobal("fetch", asked);
    return asked;
  };

  test("counts a view and one start, adds an id and tracked values", () => {
    page(built(), embed);
    const form = document.forms[0] as HTMLFormElement;
    form.dispatchEvent(new Event("input", { bubbles: true }));
    form.dispatchEvent(new Event("input", { bubbles: true }));
    expect(sent.map((s) => s.url)).toEqual(["https://fuse.example/f/own/seen?what=view", "https://fuse.example/f/own/seen?what=start"]);
    const data = new FormData(form);
    expect([data.get("utm_source"), data.get("src"), data.get("click_id"), data.get("landing_path")]).toEqual([
      "gazette",
      "gazette",
      "c123",
      "/landing",
    ]);
    expect(String(data.get("id")).length).toBeGreaterThan(10);
  });

  test("a hosted form is not counted twice, and a second script changes nothing", () => {
    page(built(" data-lf-counted"), embed);
    expect(sent).toEqual([]);
    const ids = document.querySelectorAll("input[name=id]").length;
    new Function(embed)();
    expect(document.querySelectorAll("input[name=id]").length).toBe(ids);
  });

  test("shows the answers once more, lets one go back, and sends from there", async () => {
    const asked = answering(202, {
      receipt: "r",
      thankYou: null,
      ending: { words: "We ring you.", download: "https://x.example/a.pdf", call: "+44 7700 900512" },
      amend: "https://fuse.example/f/own/amend/t",
    });
    page(built(" data-lf-look"), embed);
    const form = document.forms[0] as HTMLFormElement;
    press(form);
    expect(asked).not.toHaveBeenCalled();
    expect([...form.querySelectorAll("dd")].map((d) => d.textContent)).toEqual(["i@example.com", "a"]);
    form.querySelector<HTMLButtonElement>(".lf-back")?.click();
    expect(form.querySelector("dl")).toBeNull();
    press(form);
    press(form);
    await vi.waitFor(() => expect(form.textContent).toContain("We ring you."));
    expect(asked).toHaveBeenCalledOnce();
    expect(asked.mock.calls[0]?.[0]).toBe("https://fuse.example/in/own");
    expect([...form.querySelectorAll("a")].map((a) => a.getAttribute("href"))).toEqual([
      "https://x.example/a.pdf",
      "tel:+447700900512",
      "https://fuse.example/f/own/amend/t",
    ]);
  });

  test("keeps the words and tries again while the network is away", async () => {
    vi.useFakeTimers();
    let tries = 0;
    vi.stubGlobal("fetch", async () => {
      tries += 1;
      if (tries < 3) throw new TypeError("away");
      return new Response(JSON.stringify({ receipt: "r", thankYou: null, ending: null, amend: null }), { status: 202 });
    });
    page(built(), embed);
    const form = document.forms[0] as HTMLFormElement;
    press(form);
    await vi.advanceTimersByTimeAsync(100);
    expect(form.textContent).toContain("Not sent yet; trying again. Your answers stay here.");
    expect(form.querySelector<HTMLInputElement>("#e")?.value).toBe("i@example.com");
    await vi.advanceTimersByTimeAsync(20_000);
    expect(form.textContent).toContain("Your answers have arrived.");
    expect(tries).toBe(3);
    vi.useRealTimers();
  });

  test("on a refusal the browser's own post takes over", async () => {
    answering(403, {});
    const own = vi.spyOn(HTMLFormElement.prototype, "submit").mockImplementation(() => undefined);
    page(built(" data-lf-look"), embed);
    const form = document.forms[0] as HTMLFormElement;
    press(form);
    press(form);
    await vi.waitFor(() => expect(own).toHaveBeenCalledOnce());
    expect(form.getAttribute("action")).toBe("https://fuse.example/in/own");
  });
});
