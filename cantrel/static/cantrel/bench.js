"use strict";
// A bench: drags and typing go to the server, which answers with drawings and numbers. Changes are sent one after the
// other, in the order they were made; what is still to be sent is put together where that changes nothing.
(() => {
  const bench = document.querySelector("[data-bench]");
  if (!bench || bench.hasAttribute("data-read-only")) return;
  const form = bench.querySelector("[data-bench-form]");
  const previewOnly = bench.hasAttribute("data-preview-only");
  const saving = window.cantrelSaving;
  let dragging = null;

  // --- sending --------------------------------------------------------------------------------------------------
  const changes = (change) => change.save && !previewOnly;
  const handleOf = (name) => bench.querySelector(`[data-handle="${CSS.escape(name)}"]`);
  const matrixOf = (handle) => handle?.transform.baseVal.consolidate()?.matrix ?? { e: 0, f: 0 };
  // How far the place of a handle lies from where it is held, where its neighbours crowd it.
  const away = (handle) => (handle?.dataset.off ?? "0,0").split(",").map(Number);
  function extraOf(change) {
    if (change.kind !== "nudge") return change.extra;
    const handle = handleOf(change.handle);
    const { e, f } = matrixOf(handle);
    const [offX, offY] = away(handle);
    return { handle: change.handle, dx: change.dx, dy: change.dy, frame: handle?.ownerSVGElement.dataset.frame ?? "", at: `${e + offX},${f + offY}` };
  }
  function post(change) {
    const data = new FormData(form);
    Object.entries(extraOf(change)).forEach(([key, value]) => data.set(key, value));
    if (changes(change)) data.set("save", "1");
    return window.cantrelPost(bench.dataset.url, new URLSearchParams(data), changes(change));
  }
  // Steps of one handle add up, places of one drag replace each other; what was pressed stays as often as it was pressed.
  function joined(last, next) {
    if (last.kind !== next.kind || last.handle !== next.handle || next.kind === "press") return null;
    const save = last.save || next.save;
    if (next.kind === "nudge") return { ...next, save, dx: last.dx + next.dx, dy: last.dy + next.dy };
    return { ...next, save, extra: { ...last.extra, ...next.extra } };
  }
  let typing = false; // something is typed that was not sent to be kept yet
  const whole = { kind: "form", extra: {}, save: true };
  const send = window.cantrelQueue({
    post, changes, joined,
    fields: () => form,
    show(answer, change, was, upTo) {
      if (answer.saved && change.toast) window.cantrelToast(change.toast);
      if (answer.saved) saving.kept(upTo, answer.said);
      else if (Object.keys(answer.errors ?? {}).length && !previewOnly) saving.wrong();
      show(answer, was);
    },
    busy: (now) => bench.setAttribute("aria-busy", String(now)),
    waits: () => typing,
    before: () => { if (typing) typed(); },
    parting(queue) {
      if (previewOnly) return;
      if (typing) queue.push(whole);
      queue.splice(0).filter((change) => change.save).forEach(post);
    },
  });

  let timer = 0;
  function typed() {
    clearTimeout(timer);
    typing = false;
    send(whole);
  }
  const keeps = (field) => !previewOnly && !field.closest("[data-keeps-by-button]");
  form.addEventListener("input", (event) => {
    clearTimeout(timer);
    if (keeps(event.target)) {
      typing = true;
      saving.touched();
    }
    timer = setTimeout(() => send({ kind: "form", extra: {}, save: false }), 120);
  });
  form.addEventListener("change", (event) => {
    clearTimeout(timer);
    typing = false;
    send({ kind: "form", extra: {}, save: keeps(event.target) });
  });
  if (!previewOnly) form.addEventListener("submit", (event) => {
    event.preventDefault();
    send(whole);
  });
  // A page's own script asks through the bench, so that answers keep their order.
  bench.addEventListener("ask", ({ detail: { extra, save } }) => {
    const handle = extra.handle ?? extra.act;
    send({ kind: handle ? "press" : "view", handle, extra, save });
  });
  bench.addEventListener("click", (event) => {
    const take = event.target.closest("[data-take]");
    if (take) send({ kind: "press", handle: take.dataset.take, extra: { handle: take.dataset.take }, save: true, toast: take.dataset.toast });
  });

  // --- what is answered -------------------------------------------------------------------------------------------
  function show(answer, was) {
    const focus = document.activeElement?.closest?.("[data-handle]")?.dataset.handle;
    Object.entries(answer.fragments).forEach(([key, html]) => {
      if (key === "numbers") numbers(html);
      else bench.querySelectorAll(`[data-fragment="${key}"]`).forEach((place) => window.cantrelSwap(place, html, was));
    });
    Object.entries(answer.values ?? {}).forEach(([key, value]) => {
      const field = form.elements[key];
      if (field) put(field, value ?? "", was);
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
    bench.dataset.answers = Number(bench.dataset.answers ?? 0) + 1;
    announce();
    window.cantrelSized();
    window.cantrelZoomed();
    bench.dispatchEvent(new CustomEvent("answered"));
    if (focus && !dragging) handleOf(focus)?.focus({ preventScroll: true });
    if (dragging) handleOf(dragging.handle)?.classList.add("held");
    address();
  }

  // Another verdict is told to who does not see it; the same one again is not.
  const verdict = () => bench.querySelector("[data-fragment=ruling] .ruling b")?.textContent.trim() ?? "";
  let told = verdict();
  function announce() {
    const now = verdict();
    if (now === told) return;
    document.getElementById("announced").textContent = told = now;
  }

  // What somebody is typing in stays as it is; an answer to it is put in when they leave it as it was.
  const later = new Map();
  function put(field, value, was) {
    if (field instanceof RadioNodeList || field.type === "hidden") field.value = value;
    else if (field === document.activeElement) later.set(field, { value, stood: window.cantrelValue(field) });
    else if (!window.cantrelTypedSince(field, was)) {
      if (field.type === "checkbox") field.checked = value === true || value === "on";
      else field.value = value;
      field.tomselect?.sync();
      was.set(field, window.cantrelValue(field));
    }
  }
  form.addEventListener("focusout", ({ target }) => {
    const put = later.get(target);
    later.delete(target);
    if (!put || put.stood !== window.cantrelValue(target)) return;
    target.value = put.value;
    if (target.type !== "checkbox") target.defaultValue = put.value;
  });

  function numbers(html) {
    const shelf = document.createElement("template");
    shelf.innerHTML = html;
    shelf.content.querySelectorAll("[data-rows]").forEach((rows) => {
      const place = bench.querySelector(`[data-rows-for="${rows.dataset.rows}"]`);
      if (place) window.cantrelSwap(place, rows.outerHTML, new Map());
    });
  }

  function errors(found, notes) {
    const left = window.cantrelFaults(form, found, notes);
    const line = form.querySelector("[data-form-error]");
    if (line) line.textContent = left;
  }

  // What is looked at stands in the address: loading again, going back and undo come to the same place.
  function address() {
    const names = (form.dataset.address ?? "").split(" ").filter(Boolean);
    if (!names.length) return;
    const now = new URL(location.href);
    names.forEach((name) => {
      const value = form.elements[name]?.value ?? "";
      if (value && value !== "0") now.searchParams.set(name, value);
      else now.searchParams.delete(name);
    });
    if (now.href === location.href) return;
    history.replaceState(history.state, "", now);
    document.querySelectorAll("[name=page], [name=next]").forEach((field) => { field.value = now.pathname + now.search; });
  }

  // --- hands and keys ---------------------------------------------------------------------------------------------
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
    // It moves from where it is, wherever it was gripped: nothing jumps under the thumb.
    const [{ e, f }, [offX, offY], at] = [matrixOf(handle), away(handle), place(svg, event)];
    const grip = { x: at.x - e - offX, y: at.y - f - offY };
    dragging = { handle: handle.dataset.handle, fragment: svg.closest("[data-fragment]").dataset.fragment, moved: false, grip };
  });
  const drag = (event, save) => {
    const { handle, fragment, grip } = dragging;
    const svg = bench.querySelector(`[data-fragment="${fragment}"] svg`);
    const at = place(svg, event);
    send({ kind: "drag", handle, extra: { handle, frame: at.frame, x: at.x - grip.x, y: at.y - grip.y }, save });
  };
  window.addEventListener("pointermove", (event) => {
    if (!dragging) return;
    dragging.moved = true;
    drag(event, false);
  });
  window.addEventListener("pointerup", (event) => {
    if (dragging?.moved) drag(event, true);
    dragging = null;
  });
  window.addEventListener("pointercancel", () => { dragging = null; });
  document.addEventListener("pinched", () => { dragging = null; });

  const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
  bench.addEventListener("keydown", (event) => {
    const handle = event.target.closest("[data-handle]")?.dataset.handle;
    const arrow = ARROWS[event.key];
    if (!handle || !arrow) return;
    event.preventDefault();
    const many = event.shiftKey ? 5 : 1;
    send({ kind: "nudge", handle, dx: arrow[0] * many, dy: arrow[1] * many, save: true });
  });
  if (window.cantrelCameBack) send(whole);
})();
