"use strict";
// What a person did that the server has not kept yet: said on the page, waited for before the page is left, and sent
// along where it is left all the same. Whatever sends (a bench, the plan of a site, a list) signs on with its ways.
(() => {
  // What the state line says; Alpine shows it.
  let line = { state: "", said: null, todo: "", href: "" };
  const tell = (state, said, { todo = "", href = "" } = {}) => {
    Object.assign(line, { state, said, todo, href });
    document.body.dataset.saving = state; // what the page shows is old while nobody answers
  };

  let typed = 0; // counts what a person did
  let unsent = false; // some of it is not kept
  let late = false; // kept so late that nobody has seen what it comes to
  let failed = false;
  const senders = [];

  const busy = () => senders.some((sender) => sender.busy());
  // What nobody answers, or what was refused, is not waited for: leaving asks instead.
  const stuck = () => ["wrong", "away", "shut"].includes(line.state);
  const waits = () => (unsent || busy()) && !stuck();
  const settled = () => Promise.all(senders.map((sender) => sender.flush()));

  window.cantrelSaving = {
    typed: () => typed,
    signOn: (sender) => senders.push(sender),
    touched() {
      typed += 1;
      unsent = true;
      if (!failed) tell("saving", window.cantrelSays("saving"));
    },
    // Saved, with everything up to a count of what was done.
    kept(upTo, said) {
      late = failed;
      failed = false;
      if (upTo === typed) unsent = false;
      if (late) tell("saved", window.cantrelSays("sentLate"));
      else if (unsent) tell("saving", window.cantrelSays("saving"));
      else tell("saved", said || window.cantrelSays("saved"));
      document.dispatchEvent(new CustomEvent("kept"));
    },
    wrong(said) {
      unsent = true;
      tell("wrong", said || window.cantrelSays("notSaved"));
    },
    // Somebody answers again: what was said of that is over.
    answered() {
      if (!failed) return;
      if (!unsent) failed = false;
      tell(unsent ? "saving" : "", unsent ? window.cantrelSays("saving") : "");
    },
    away(error, changed = true, what = "notReached") {
      failed = true;
      unsent ||= changed;
      tell("away", window.cantrelSays(what, error.message));
    },
    shut({ why, todo, href }, changed = true) {
      failed = true;
      unsent ||= changed;
      tell("shut", why, { todo, href });
    },
    say: (said) => tell(line.state, said),
  };

  document.addEventListener("alpine:init", () => {
    window.Alpine.store("saving", line);
    line = window.Alpine.store("saving");
    window.Alpine.data("saving", () => ({
      init() {
        if (line.said === null) line.said = this.$refs.said.textContent.trim();
      },
      get state() { return line.state; },
      get said() { return line.said; },
      get todo() { return line.todo; },
      get href() { return line.href; },
      go() { unsent = false; }, // signing in leaves with what was typed kept
    }));
  });

  // An answer's part of the page. Drawings are put in whole; words and fields are changed where they differ, so that focus,
  // what is open, how far it is scrolled and what is being typed stay. ``was``: what stood in the fields that were sent.
  window.cantrelTypedSince = (field, was) => was.has(field) && was.get(field) !== window.cantrelValue(field);
  const holds = (node) => node.nodeType === 1 && node.matches("input, select, textarea") && node.type !== "hidden";
  window.cantrelSwap = (place, html, was) => {
    if (/<svg\s[^>]*data-frame/.test(html)) {
      const open = new Set([...place.querySelectorAll("details[open][data-figure]")].map((d) => d.dataset.figure));
      place.innerHTML = html;
      place.querySelectorAll("details[data-figure]").forEach((d) => { d.open = open.has(d.dataset.figure); });
      return;
    }
    const next = place.cloneNode(false);
    next.innerHTML = html;
    // Another thing's fields are another thing's: nothing of what is typed stays in them.
    const [old, now] = [place, next].map((part) => part.querySelector("[data-of]")?.dataset.of);
    const stays = (field) => old === now && (field === document.activeElement || window.cantrelTypedSince(field, was));
    window.Alpine.morph(place, next.outerHTML, {
      key: (el) => el.dataset?.figure || el.dataset?.order || el.dataset?.field || el.id,
      updating(from, to, _children, skip) {
        if (from.tagName === "DETAILS") to.open = from.open;
        if (holds(from) && stays(from)) skip();
      },
      updated(el, to) {
        if (!holds(el)) return;
        if (el.type === "checkbox" || el.type === "radio") el.checked = to.checked;
        else if (el.type !== "file") el.value = to.value;
        was.set(el, window.cantrelValue(el));
      },
    });
  };

  // What was just taken off can be brought back where it was done.
  let toast = { said: "" };
  let fades = 0;
  window.cantrelToast = (said) => {
    clearTimeout(fades);
    toast.said = said;
    fades = setTimeout(() => { toast.said = ""; }, 9000);
  };
  document.addEventListener("alpine:init", () => {
    window.Alpine.store("toast", toast);
    toast = window.Alpine.store("toast");
    window.Alpine.data("toast", () => ({
      get said() { return toast.said; },
      get shown() { return toast.said !== ""; },
      close() { toast.said = ""; },
      undo() {
        toast.said = "";
        document.querySelector("[data-undo], [data-do=undo]")?.click();
      },
    }));
  });

  const elsewhere = (link) => link.target || link.hasAttribute("download") || link.getAttribute("href").startsWith("#") || link.closest("[data-saved]");
  document.addEventListener("click", async (event) => {
    const link = event.target.closest("a[href]");
    if (!link || elsewhere(link) || event.defaultPrevented || event.ctrlKey || event.metaKey || event.shiftKey || event.button) return;
    if (!waits()) return;
    event.preventDefault();
    await settled();
    location.href = link.href;
  });
  document.addEventListener("submit", async (event) => {
    const form = event.target;
    if (form.matches("[data-sends-itself], [data-bench-form]") || form.method === "dialog" || !waits()) return;
    event.preventDefault();
    event.stopPropagation();
    await settled();
    form.requestSubmit(event.submitter);
  }, true);

  for (const touch of ["pointerdown", "keydown"]) window.addEventListener(touch, () => { late = false; });
  window.addEventListener("beforeunload", (event) => {
    if (late || (unsent && (stuck() || busy()))) event.preventDefault();
  });
  window.addEventListener("pagehide", () => { if (unsent) senders.forEach((sender) => sender.parting()); });
  document.addEventListener("visibilitychange", () => { if (document.hidden && waits()) settled(); });
})();
