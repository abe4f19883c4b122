"use strict";
// A bench: drags and typing go to the server, which answers with drawings and numbers. The last answer wins.
(() => {
  const bench = document.querySelector("[data-bench]");
  if (!bench || bench.hasAttribute("data-read-only")) return;
  const form = bench.querySelector("[data-bench-form]");
  const previewOnly = bench.hasAttribute("data-preview-only");
  let sending = false;
  let waiting = null;
  let dragging = null;

  // What a person did that the server has not saved; and what it saved so late that nobody has seen what it comes to.
  let typed = 0;
  let unsent = false;
  let late = false;
  let failed = null;
  let again = 0;

  let sent = new Map();
  const body = (extra, save) => {
    sent = window.cantrelSent(form);
    const data = new FormData(form);
    Object.entries(extra).forEach(([key, value]) => data.set(key, value));
    if (save && !previewOnly) data.set("save", "1");
    return new URLSearchParams(data);
  };

  async function send(extra = {}, save = false) {
    if (sending) {
      waiting = { extra, save: save || (waiting?.save ?? false) };
      return;
    }
    sending = true;
    bench.setAttribute("aria-busy", "true");
    const [began, retried] = [typed, failed !== null];
    try {
      const data = body(extra, save);
      const was = sent;
      const response = await fetch(bench.dataset.url, { method: "POST", body: data, headers: { "X-Requested-With": "fetch" } });
      const shut = window.cantrelShutOut(response);
      if (shut) return refused(shut);
      if (!response.ok) throw new Error(response.status);
      failed = null;
      const answer = await response.json();
      show(answer, was);
      if (answer.saved && began === typed) unsent = false;
      if (answer.saved && retried) {
        late = true;
        say(window.cantrelSays("sentLate"));
      }
    } catch (error) {
      kept(extra, save);
      say(window.cantrelSays("notReached", error.message));
      again = setTimeout(retry, 5000);
    } finally {
      sending = false;
      if (waiting) {
        const next = waiting;
        waiting = null;
        send(next.extra, next.save);
      } else {
        bench.setAttribute("aria-busy", "false");
      }
    }
  }

  // What could not be sent is sent again as soon as somebody answers.
  const kept = (extra, save) => {
    failed = { extra, save: save || (failed?.save ?? false) };
    unsent ||= save;
  };
  function refused({ why, todo, href }) {
    kept({}, true);
    say(`${why} `);
    const link = document.createElement("a");
    [link.href, link.textContent] = [href, todo];
    link.addEventListener("click", () => { unsent = false; });
    bench.querySelector("[data-saved]")?.append(link);
  }
  const retry = () => {
    clearTimeout(again);
    if (failed && !sending) send(failed.extra, failed.save);
  };
  window.addEventListener("online", retry);
  window.addEventListener("focus", retry);
  for (const touch of ["pointerdown", "keydown"]) window.addEventListener(touch, () => { late = false; });
  window.addEventListener("beforeunload", (event) => {
    if (unsent || late) event.preventDefault();
  });

  // A page's own script asks through the bench, so that answers keep their order.
  bench.addEventListener("ask", (event) => send(event.detail.extra, event.detail.save));

  const say = (text) => {
    const line = bench.querySelector("[data-saved]");
    if (line) line.textContent = text;
  };

  function show(answer, was) {
    const focus = document.activeElement?.closest?.("[data-handle]")?.dataset.handle;
    Object.entries(answer.fragments).forEach(([key, html]) => {
      if (key === "numbers") numbers(html);
      else bench.querySelectorAll(`[data-fragment="${key}"]`).forEach((place) => swap(place, html));
    });
    Object.entries(answer.values ?? {}).forEach(([key, value]) => {
      const field = form.elements[key];
      if (field) field.value = value ?? "";
      if (field) was.set(field, field.value);
      // Every form of the page stands on what was saved last.
      if (key === "revision") document.querySelectorAll("[name=revision]").forEach((place) => { place.value = value; });
    });
    // A panel drawn with what two people typed holds more than what is stored: all of it is sent until it is saved.
    if (answer.fragments.panel && Object.keys(answer.errors ?? {}).length) form.dataset.sends = "all";
    if (answer.saved) {
      window.cantrelKept(was);
      delete form.dataset.sends;
    }
    errors(answer.errors ?? {}, answer.notes ?? {});
    if (answer.saved) say(answer.said || window.cantrelSays("saved"));
    else if (Object.keys(answer.errors ?? {}).length) say(window.cantrelSays("notSaved"));
    bench.dataset.answers = Number(bench.dataset.answers ?? 0) + 1;
    bench.dispatchEvent(new CustomEvent("answered"));
    if (focus && !dragging) bench.querySelector(`[data-handle="${focus}"]`)?.focus({ preventScroll: true });
    if (dragging) bench.querySelector(`[data-handle="${dragging.handle}"]`)?.classList.add("held");
  }

  function swap(place, html) {
    const open = new Set([...place.querySelectorAll("details[open][data-figure]")].map((d) => d.dataset.figure));
    place.innerHTML = html;
    place.querySelectorAll("details[data-figure]").forEach((d) => { d.open = open.has(d.dataset.figure); });
  }

  function numbers(html) {
    const shelf = document.createElement("template");
    shelf.innerHTML = html;
    shelf.content.querySelectorAll("[data-rows]").forEach((rows) => {
      const place = bench.querySelector(`[data-rows-for="${rows.dataset.rows}"]`);
      if (place) swap(place, rows.outerHTML);
    });
  }

  function errors(found, notes) {
    const nowhere = new Set(Object.keys(found));
    form.querySelectorAll("[data-field]").forEach((field) => {
      const key = field.dataset.field;
      nowhere.delete(key);
      const input = field.querySelector("input, select, textarea");
      field.classList.toggle("wrong", key in found);
      field.querySelector(".error").textContent = (found[key] ?? []).join(" ") || notes[key] || "";
      input?.setAttribute("aria-invalid", key in found ? "true" : "false");
      if (key in found) field.closest("details")?.setAttribute("open", "");
    });
    const line = form.querySelector("[data-form-error]");
    if (line) line.textContent = [...nowhere].flatMap((key) => found[key]).join(" ");
  }

  let timer = 0;
  form.addEventListener("input", () => {
    typed += 1;
    unsent = !previewOnly;
    clearTimeout(timer);
    timer = setTimeout(() => send(), 120);
  });
  form.addEventListener("change", (event) => {
    clearTimeout(timer);
    send({}, !event.target.closest(".panel"));
  });
  if (!previewOnly) form.addEventListener("submit", (event) => {
    event.preventDefault();
    send({}, true);
  });

  bench.addEventListener("click", (event) => {
    const take = event.target.closest("[data-take]");
    if (take) send({ handle: take.dataset.take }, true);
  });

  const place = (svg, event) => {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return { frame: svg.dataset.frame, x: point.x, y: point.y };
  };
  bench.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest("[data-handle]");
    if (!handle) return;
    event.preventDefault();
    handle.focus({ preventScroll: true });
    const svg = handle.ownerSVGElement;
    dragging = { handle: handle.dataset.handle, fragment: svg.closest("[data-fragment]").dataset.fragment, moved: false };
  });
  const now = (event) => {
    const svg = bench.querySelector(`[data-fragment="${dragging.fragment}"] svg`);
    return { handle: dragging.handle, ...place(svg, event) };
  };
  window.addEventListener("pointermove", (event) => {
    if (!dragging) return;
    dragging.moved = true;
    send(now(event));
  });
  const release = (event) => {
    if (!dragging) return;
    const last = dragging.moved ? now(event) : null;
    dragging = null;
    if (last) send(last, true);
  };
  window.addEventListener("pointerup", release);
  window.addEventListener("pointercancel", () => { dragging = null; });

  const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
  bench.addEventListener("keydown", (event) => {
    const handle = event.target.closest("[data-handle]");
    const arrow = ARROWS[event.key];
    if (!handle || !arrow) return;
    event.preventDefault();
    const many = event.shiftKey ? 5 : 1;
    const { e, f } = handle.transform.baseVal.consolidate()?.matrix ?? { e: 0, f: 0 };
    const where = { frame: handle.ownerSVGElement.dataset.frame ?? "", at: `${e},${f}` };
    send({ handle: handle.dataset.handle, dx: arrow[0] * many, dy: arrow[1] * many, ...where }, true);
  });
  if (window.cantrelCameBack) send({}, true);
})();
