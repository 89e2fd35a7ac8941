// Makes a form built here kinder where scripts run: an id of its own (a second press or a retry has one effect), tracking
// values, a look-over, words kept while the network is away. On any surprise the browser's own post takes over.
(() => {
  const tracked = (name) => {
    const here = new URL(location.href);
    if (name === "referrer") return document.referrer;
    if (name === "landing_path") return here.pathname;
    if (name === "click_id") return [...here.searchParams].filter(([key]) => /clid$|click_?id$/i.test(key)).map(([, value]) => value)[0];
    return here.searchParams.get(name);
  };
  const kinder = (form) => {
    if (form.dataset.lf) return;
    form.dataset.lf = "1";
    const began = Date.now();
    const key = form.dataset.lfKey;
    const base = new URL(form.getAttribute("action"), location.href).origin;
    const hidden = (name, value) => {
      if (!value || form.elements.namedItem(name)) return;
      const input = document.createElement("input");
      input.type = "hidden"; input.name = name; input.value = value; form.append(input);
    };
    // A page whose policy forbids us to be called cannot be waited for: the browser's own post goes at once.
    let barred = false;
    document.addEventListener("securitypolicyviolation", (e) => { if (e.blockedURI.startsWith(base) && /^(connect|default)-src/.test(e.effectiveDirective)) barred = true; });
    const count = (what) => navigator.sendBeacon?.(`${base}/f/${key}/seen?what=${what}`);
    if (!("lfCounted" in form.dataset)) count("view");
    form.addEventListener("input", () => count("start"), { once: true });
    hidden("id", crypto.randomUUID ? crypto.randomUUID() : String(Date.now()) + Math.random().toString(36).slice(2));
    for (const name of ["landing_path", "referrer", "click_id", "utm_source", "utm_medium", "utm_campaign", "utm_term", "utm_content"]) hidden(name, tracked(name));
    for (const input of form.querySelectorAll("[data-lf-tracks]")) input.value = tracked(input.dataset.lfTracks) || "";
    const note = document.createElement("p");
    note.setAttribute("role", "status"); form.append(note);
    const button = form.querySelector("button[type=submit]");
    let look = null;
    const shown = () => [...form.children].filter((part) => part !== look && part !== note);
    const lookOver = () => {
      look = document.createElement("div");
      look.innerHTML = "<h3 tabindex=-1>Is this right?</h3><dl></dl><p><button type=submit></button> <button type=button class=lf-back>Change something</button></p>";
      const list = look.querySelector("dl");
      for (const label of form.querySelectorAll("p > label[for], fieldset > legend")) {
        const box = label.tagName === "LEGEND" ? label.parentElement : null;
        const said = box ? [...box.querySelectorAll("input:checked")].map((i) => i.value).join(", ") : document.getElementById(label.htmlFor).value;
        const [dt, dd] = [document.createElement("dt"), document.createElement("dd")];
        dt.textContent = label.textContent; dd.textContent = said || "–"; list.append(dt, dd);
      }
      look.querySelector("[type=submit]").textContent = button.textContent;
      const parts = shown();
      for (const part of parts) part.hidden = true;
      look.querySelector(".lf-back").onclick = () => { look.remove(); look = null; for (const part of parts) part.hidden = false; button.focus(); };
      form.insertBefore(look, note);
      look.querySelector("h3").focus();
    };
    const end = ({ thankYou, ending, amend }) => {
      if (thankYou) return location.assign(thankYou);
      for (const part of [...form.children]) if (part !== note) part.remove();
      note.textContent = ending ? ending.words : "Thank you. Your answers have arrived.";
      const link = (href, words) => { if (!href) return; const p = document.createElement("p"), a = document.createElement("a"); a.href = href; a.textContent = words; p.append(a); form.append(p); };
      if (ending) { link(ending.download, "Download it"); link(ending.call && "tel:" + ending.call.replace(/ /g, ""), "Call " + ending.call); }
      link(amend, "Change your answers later: keep this link");
      note.tabIndex = -1; note.focus();
    };
    form.addEventListener("submit", async (event) => {
      event.preventDefault();
      if (button.disabled) return;
      if ("lfLook" in form.dataset && !look) return lookOver();
      button.disabled = true; note.textContent = "Sending…";
      hidden("lf_took", String(Date.now() - began));
      hidden("lf_page", location.href.split("#")[0]);
      const door = `${base}/in/${key}`;
      for (let tries = 1; tries <= 6 && !barred; tries++) {
        try {
          const answer = await fetch(door, { method: "POST", headers: { Accept: "application/json" }, body: new URLSearchParams(new FormData(form)) });
          if (answer.status === 202) return end(await answer.json());
          if (answer.status !== 429 && answer.status !== 503) break;
        } catch { /* the network is away: try again */ }
        await new Promise((then) => setTimeout(then, 50));
        if (barred) break;
        note.textContent = "Not sent yet; trying again. Your answers stay here.";
        await new Promise((then) => setTimeout(then, Math.min(1000 * 2 ** tries, 15000)));
      }
      button.disabled = false;
      note.textContent = "";
      form.setAttribute("action", door);
      HTMLFormElement.prototype.submit.call(form);
    });
  };
  document.querySelectorAll("form.lf-form").forEach(kinder);
})();
