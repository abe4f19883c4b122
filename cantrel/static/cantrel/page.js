"use strict";
// What scripts say, in the reader's language: the page brings the words, {n} is filled in.
window.cantrelSays = (name, ...values) =>
  values.reduce((said, value) => said.replace("{n}", value), document.getElementById("words").dataset[name]);
// What every page has: light or dusk, the help sheet, keys for the steps, and typed numbers kept across a unit switch.
(() => {
  const root = document.documentElement;
  const kept = localStorage.getItem("cantrel-light");
  if (kept) root.dataset.light = kept;

  // Letters in drawings are as large on the glass whatever the drawing is scaled by: --k is points of the picture a pixel.
  const sized = () => document.querySelectorAll("svg.drawing:not(.sitemap)").forEach((svg) => {
    if (!svg.clientWidth) return;
    const picture = svg.viewBox.baseVal;
    svg.style.setProperty("--k", Math.min(Math.max(picture.width / svg.clientWidth, picture.height / svg.clientHeight), 2.2).toFixed(3));
  });
  window.cantrelSized = sized;
  new ResizeObserver(sized).observe(document.documentElement);
  document.addEventListener("DOMContentLoaded", sized);
  document.addEventListener("toggle", sized, true);

  document.addEventListener("alpine:init", () => {
    window.Alpine.data("page", () => ({
      dusk() {
        const dark = root.dataset.light ? root.dataset.light === "dusk" : matchMedia("(prefers-color-scheme: dark)").matches;
        root.dataset.light = dark ? "day" : "dusk";
        localStorage.setItem("cantrel-light", root.dataset.light);
      },
      keys: localStorage.getItem("cantrel-keys") === "on",
      keyed() { localStorage.setItem("cantrel-keys", this.keys ? "on" : "off"); },
      help() { document.getElementById("help").showModal(); },
      print() { window.print(); },
      aloud() {
        const voice = window.speechSynthesis;
        if (!voice) return;
        const speaking = voice.speaking;
        voice.cancel();
        if (speaking) return;
        document.querySelectorAll("[data-steps] li").forEach((li, i) => voice.speak(new SpeechSynthesisUtterance(`${i + 1}. ${li.textContent}`)));
      },
    }));
    // A hint is shown at the first visit of its bench, until it is understood.
    window.Alpine.data("hint", () => ({
      fresh: false,
      init() { this.fresh = localStorage.getItem(`cantrel-hint-${this.$el.dataset.hint}`) === null; },
      understood() {
        this.fresh = false;
        localStorage.setItem(`cantrel-hint-${this.$root.dataset.hint}`, "1");
      },
    }));
  });

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || localStorage.getItem("cantrel-keys") !== "on") return;
    if (event.target.closest("input, textarea, select")) return;
    if (event.key === "?") document.getElementById("help").showModal();
    const step = document.querySelector(`.strip a[data-key="${CSS.escape(event.key)}"]`);
    if (step) step.click();
    if (event.key === "u") document.querySelector("[data-undo]")?.click();
    if (event.key === "U") document.querySelector("[data-redo]")?.click();
  });

  // On a narrow page the strip shows the step that is open.
  const current = document.querySelector(".strip [aria-current]");
  if (current) current.closest("ol").scrollLeft = current.offsetLeft - (current.closest("ol").clientWidth - current.offsetWidth) / 2;

  // What was kept may change what a step's mark says: the strip is asked for anew when the hand rests, and once for a
  // page that was drawn before its verdicts were known.
  const strip = document.querySelector(".strip[data-url]");
  let asked = 0;
  const anew = () => {
    clearTimeout(asked);
    asked = setTimeout(async () => {
      const answer = await fetch(strip.dataset.url, { headers: { "X-Requested-With": "fetch" } }).catch(() => null);
      if (answer?.ok) window.Alpine?.morph(strip, (await answer.text()).trim());
    }, 300);
  };
  if (strip) document.addEventListener("kept", anew);
  if (strip?.querySelector("[data-unjudged]")) window.addEventListener("load", anew);

  // A file's size is looked at before it is sent.
  document.querySelector("[data-upload]")?.addEventListener("submit", (event) => {
    const form = event.target;
    const file = form.querySelector("[type=file]").files[0];
    if (!file || file.size <= Number(form.dataset.most)) return;
    event.preventDefault();
    const megabytes = (bytes) => Math.round(bytes / 1048576);
    form.querySelector(".error").textContent = window.cantrelSays("tooLarge", megabytes(file.size), megabytes(form.dataset.most));
  });

  // Whether a person touched a field since its page was drawn, or since it was saved.
  const changed = (field) => {
    if (field.type === "checkbox" || field.type === "radio") return field.checked !== field.defaultChecked;
    if (field.tagName === "SELECT") return [...field.options].some((o) => o.selected !== o.defaultSelected);
    return field.value !== field.defaultValue;
  };

  // A form that says which save it stands on sends only what was changed: what nobody touched here stays as others left it.
  document.addEventListener("formdata", (event) => {
    const form = event.target;
    if (!form.hasAttribute("data-changed-only") || form.dataset.sends === "all") return;
    const fields = [...form.elements].filter((field) => field.name && !field.closest("[data-always]") && !["hidden", "submit", "button", "file"].includes(field.type));
    const touched = new Set(fields.filter(changed).map((field) => field.name));
    fields.forEach((field) => { if (!touched.has(field.name)) event.formData.delete(field.name); });
    event.formData.set("changed", [...touched].join(" "));
  });

  // After a save the page stands on what was sent with it; what was typed since is still to be sent.
  const boxed = (field) => field.type === "checkbox" || field.type === "radio";
  window.cantrelValue = (field) => (boxed(field) ? field.checked : field.value);
  window.cantrelSent = (form) => new Map([...form.elements].map((field) => [field, window.cantrelValue(field)]));
  window.cantrelKept = (sent) => sent.forEach((value, field) => {
    if (boxed(field)) field.defaultChecked = value;
    else if (field.tagName === "SELECT") [...field.options].forEach((o) => { o.defaultSelected = o.value === value; });
    else if (field.type !== "hidden" && "defaultValue" in field) field.defaultValue = value;
  });

  // What was typed and not saved comes back when the page does, its unit written out: after a unit switch, and after a
  // person who was signed out signed in again. It is kept for that person and in that tab only.
  const drawer = `cantrel-typed:${location.pathname}`;
  const person = document.body.dataset.person;
  const fields = () => [...document.querySelectorAll("main form input, main form textarea, main form select")]
    .filter((field) => field.name && !["hidden", "submit", "button", "file", "password"].includes(field.type));
  const name = (field) => `${field.form.getAttribute("action") || ""}|${field.name}|${field.type === "radio" ? field.value : ""}`;
  const keep = (why) => {
    const typed = {};
    fields().filter(changed).forEach((field) => {
      const unit = field.dataset.unit && /^[\s\d.,+−-]+$/.test(field.value) ? ` ${field.dataset.unit}` : "";
      typed[name(field)] = field.type === "checkbox" || field.type === "radio" ? field.checked : field.value + unit;
    });
    sessionStorage.setItem(drawer, JSON.stringify({ person, why, typed }));
  };
  // What a script says whose call was refused because of who is signed in, and where that is mended; what was typed is kept.
  window.cantrelShutOut = (response) => {
    const there = encodeURIComponent(location.pathname);
    const ways = {
      401: { why: "signedOut", todo: "signIn", href: `${document.body.dataset.signIn}?next=${there}` },
      403: { why: "signedAnew", todo: "loadAgain", href: location.href },
    };
    const way = ways[response.status];
    if (way) keep("refused");
    return way && { ...way, why: window.cantrelSays(way.why), todo: window.cantrelSays(way.todo) };
  };
  document.querySelector("form[data-keep-typed]")?.addEventListener("submit", () => keep("units"));
  // A form that is sent may meet a sign-in page: then it comes back after it, and only then.
  document.querySelectorAll("main form[method=post]").forEach((form) => form.addEventListener("submit", () => keep("sent")));
  const signIn = document.body.dataset.signIn;
  if (location.pathname === signIn) sessionStorage.setItem("cantrel-signed-out", "1");
  else if (person) {
    const signedAnew = sessionStorage.getItem("cantrel-signed-out") !== null;
    const back = JSON.parse(sessionStorage.getItem(drawer) || "null");
    sessionStorage.removeItem("cantrel-signed-out");
    sessionStorage.removeItem(drawer);
    if (back && back.person === person && (back.why !== "sent" || signedAnew)) restore(back);
  }

  function restore({ why, typed }) {
    let count = 0;
    fields().forEach((field) => {
      const value = typed[name(field)];
      if (value === undefined) return;
      count += 1;
      if (typeof value === "boolean") field.checked = value;
      else field.value = value;
      field.closest("details")?.setAttribute("open", "");
    });
    if (!count || why === "units") return;
    window.cantrelCameBack = true; // a bench sends it by itself
    const line = document.querySelector("[data-saved]");
    if (line) window.cantrelSaving.say(window.cantrelSays("back"));
    else document.querySelector("main").insertAdjacentHTML("afterbegin", '<p class="note" role="status"></p>');
    if (!line) document.querySelector("main > .note").textContent = window.cantrelSays("back");
  }
})();
