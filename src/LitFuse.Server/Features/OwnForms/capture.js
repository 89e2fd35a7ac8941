// Captures a form that the page has already, without changing it: a copy of what is sent goes to Lit Fuse as a beacon,
// which survives the page's leaving and delays nothing. Never throws into the page; never reads passwords, card numbers
// or files. data-key names the form; data-form (a selector) which one on the page; data-consent="yes" (or
// litfuse.consent(true) later) lets it keep an id of this browser, by which later visits are recognised.
(() => {
  const quietly = (does) => (...given) => { try { return does(...given); } catch { /* the page must not feel it */ } };
  const tag = document.currentScript;
  const { key, form: which, consent } = tag.dataset;
  const base = new URL(tag.src).origin;
  const store = (area, name, value) => { try { if (value !== undefined) area.setItem(name, value); return area.getItem(name); } catch { return null; } };
  const uuid = () => (crypto.randomUUID ? crypto.randomUUID() : String(Date.now()) + Math.random().toString(36).slice(2));
  const here = new URL(location.href);
  const first = quietly(() => {
    const known = store(sessionStorage, "lf_first");
    if (known) return JSON.parse(known);
    const found = { landing_path: here.pathname, referrer: document.referrer };
    for (const [name, value] of here.searchParams) {
      if (/^utm_(source|medium|campaign|term|content)$/.test(name)) found[name] = value;
      else if (/clid$|click_?id$/i.test(name)) found.click_id = value;
    }
    store(sessionStorage, "lf_first", JSON.stringify(found));
    return found;
  })() || {};
  const pages = quietly(() => {
    const seen = (store(sessionStorage, "lf_pages") || "").split(" ").filter(Boolean);
    if (seen[seen.length - 1] !== here.pathname) seen.push(here.pathname);
    store(sessionStorage, "lf_pages", seen.slice(-20).join(" "));
    return seen.slice(-20);
  })() || [];
  let agreed = consent === "yes" || store(localStorage, "lf_consent") === "yes";
  const visitor = () => agreed && (store(localStorage, "lf_visitor") || store(localStorage, "lf_visitor", uuid()));
  const visit = quietly(() => {
    if (!agreed || !store(localStorage, "lf_known")) return;
    navigator.sendBeacon(`${base}/visit/${key}`, new URLSearchParams({ visitor: visitor(), path: here.pathname }));
  });
  const secret = (input) => input.type === "password" || input.type === "file" || /^cc-|one-time-code|password/.test(input.autocomplete || "") || /passw|card.?number|cvc|cvv|iban/i.test(input.name);
  const began = Date.now();
  const ids = new WeakMap();
  const send = quietly((form) => {
    const body = new URLSearchParams();
    for (const input of form.elements) {
      if (!input.name || input.disabled || secret(input)) continue;
      if ((input.type === "checkbox" || input.type === "radio") && !input.checked) continue;
      if (["submit", "button", "reset", "image"].includes(input.type)) continue;
      if (input.multiple && input.selectedOptions) for (const option of input.selectedOptions) body.append(input.name, option.value);
      else body.append(input.name === "id" ? "form_id" : input.name, input.value);
    }
    if (!ids.has(form)) ids.set(form, uuid());
    body.set("id", ids.get(form));
    for (const [name, value] of Object.entries(first)) if (value && !body.has(name)) body.append(name, value);
    if (pages.length > 1) body.append("pages_seen", pages.join(" "));
    const who = visitor();
    if (who) { body.append("visitor_id", who); store(localStorage, "lf_known", "yes"); }
    body.append("lf_took", String(Date.now() - began));
    body.append("lf_page", location.href.split("#")[0]);
    if (!navigator.sendBeacon(`${base}/in/${key}`, body)) fetch(`${base}/in/${key}`, { method: "POST", body, keepalive: true }).catch(() => {});
  });
  // Heard on the window, after the page's own listeners: what they stop is not sent.
  addEventListener("submit", quietly((event) => {
    const form = event.target;
    if (form instanceof HTMLFormElement && (which ? form.matches(which) : !form.matches("[role=search],.lf-form") && form.method !== "get") && !form.matches("[data-lf-off]")) send(form);
  }));
  window.litfuse = { consent: quietly((yes) => { agreed = !!yes; store(localStorage, "lf_consent", yes ? "yes" : "no"); if (!yes) { try { localStorage.removeItem("lf_visitor"); localStorage.removeItem("lf_known"); } catch { /* no storage */ } } visit(); }) };
  visit();
})();
