"use strict";
// What a person did that the server has not kept yet: said on the page, waited for before the page is left, and sent
// along where it is left all the same. A bench, the plan of a site and a list send by its queue.
(() => {
  // What the state line says; Alpine shows it.
  let line = { state: "", said: null, todo: "", href: "", slow: false };
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
    wrong() {
      unsent = true;
      tell("wrong", window.cantrelSays("notSaved"));
    },
    // Somebody answers again: what was said of that is over.
    answered() {
      if (!failed) return;
      if (!unsent) failed = false;
      tell(unsent ? "saving" : "", unsent ? window.cantrelSays("saving") : "");
    },
    away(error, changed) {
      failed = true;
      unsent ||= changed;
      tell("away", window.cantrelSays("notReached", error.message));
    },
    shut({ why, todo, href }, changed) {
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
      get slow() { return line.slow; },
      stop() { waiting?.abort(); },
      go() { unsent = false; }, // signing in leaves with what was typed kept
    }));
  });

  // What takes longer than a second shows that it is at work, and can be stopped. Whether a change that was stopped has
  // been kept all the same, only the server knows: the page is to be loaded again.
  let waiting = null; // ends the request that is on its way
  const SLOW = 1000;
  const watched = () => {
    waiting = new AbortController();
    const clock = setTimeout(() => { line.slow = true; }, SLOW);
    return () => { clearTimeout(clock); line.slow = false; waiting = null; };
  };
  const stopped = (changed) => {
    if (changed) window.cantrelSaving.shut({ why: window.cantrelSays("stopped"), todo: window.cantrelSays("loadAgain"), href: location.href }, false);
  };

  // A queue of changes, sent one after the other in the order they were made. ``post(change)`` sends one, ``show(answer,
  // change, was)`` shows what was answered; ``joined(last, next)`` puts two that wait together, or answers null;
  // ``changes(change)`` says whether it changes anything, ``fields(change)`` gives the form whose fields go with it. What
  // nobody answered stays first in the queue and is sent again: when the line is back, the page is looked at, in a while.
  const nothing = () => {};
  window.cantrelQueue = (ways) => {
    const { post, show, fields, changes } = ways;
    const { joined = () => null, before = nothing, parting = nothing, waits = () => false, busy: tells = nothing } = ways;
    const queue = [];
    let [sending, lost, again, idle] = [false, false, 0, []];
    async function answered(change) {
      clearTimeout(again);
      const [upTo, form] = [typed, fields(change)];
      const was = form ? window.cantrelSent(form) : new Map();
      const done = watched();
      try {
        const response = await post(change);
        const shut = window.cantrelShutOut(response);
        lost = Boolean(shut);
        if (shut) {
          window.cantrelSaving.shut(shut, changes(change));
          return false;
        }
        if (!response.ok) throw new Error(response.status);
        const answer = await response.json();
        window.cantrelSaving.answered();
        show(answer, change, was, upTo);
        return true;
      } catch (error) {
        if (error.name === "AbortError") {
          stopped(changes(change));
          return true;
        }
        lost = true;
        window.cantrelSaving.away(error, changes(change));
        again = setTimeout(retry, 5000);
        return false;
      } finally {
        done();
      }
    }
    async function pump() {
      if (sending) return;
      sending = true;
      tells(true);
      while (queue.length) {
        const change = queue.shift();
        if (await answered(change)) continue;
        const one = queue.length ? joined(change, queue[0]) : null;
        if (one) queue[0] = one;
        else queue.unshift(change);
        break;
      }
      sending = false;
      tells(false);
      idle.forEach((resolve) => resolve());
      idle = [];
    }
    const retry = () => { if (lost) pump(); };
    window.addEventListener("online", retry);
    window.addEventListener("focus", retry);
    senders.push({
      busy: () => sending || queue.length > 0 || waits(),
      flush() {
        before();
        return sending ? new Promise((resolve) => { idle.push(resolve); }) : Promise.resolve();
      },
      parting: () => { if (!lost) parting(queue); },
    });
    return (change) => {
      const one = queue.length ? joined(queue.at(-1), change) : null;
      if (one) queue[queue.length - 1] = one;
      else queue.push(change);
      if (changes(change)) window.cantrelSaving.touched();
      pump();
    };
  };
  // How a change is sent: it goes on where the page is left, unless it is longer than a browser sends then.
  const LONGEST = 60000;
  window.cantrelPost = (url, body, changes) => {
    const picture = body instanceof FormData && [...body.values()].some((value) => value instanceof File && value.size);
    const keepalive = changes && !picture && (body instanceof FormData || String(body).length < LONGEST);
    return fetch(url, { method: "POST", body, keepalive, signal: waiting?.signal, headers: { "X-Requested-With": "fetch" } });
  };
  // What is wrong, at its fields; what found no field of the form is given back.
  window.cantrelFaults = (form, found, notes = {}) => {
    const nowhere = new Set(Object.keys(found));
    form?.querySelectorAll("[data-field]").forEach((field) => {
      const key = field.dataset.field;
      nowhere.delete(key);
      field.classList.toggle("wrong", key in found);
      field.querySelector(".error").textContent = (found[key] ?? []).join(" ") || notes[key] || "";
      field.querySelector("input, select, textarea")?.setAttribute("aria-invalid", key in found ? "true" : "false");
      if (key in found) field.closest("details")?.setAttribute("open", "");
    });
    return [...nowhere].flatMap((key) => found[key]).join(" ");
  };

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
