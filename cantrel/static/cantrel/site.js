"use strict";
// The plan of the site. The browser zooms, pans and drags; every change goes to the server, which draws the plan anew.
(() => {
  const bench = document.querySelector("[data-site]");
  const map = bench.querySelector(".sitemap");
  const overlay = bench.querySelector(".overlay");
  const readout = bench.querySelector("[data-readout]");
  const writes = !bench.hasAttribute("data-looks-only");
  const token = document.querySelector("[name=csrfmiddlewaretoken]").value;
  const NS = "http://www.w3.org/2000/svg";
  let box = map.getAttribute("viewBox").split(" ").map(Number);
  let tool = "select";
  let stroke = [];
  let taking = null;
  let spots = [];

  // --- the view -----------------------------------------------------------------------------------------------
  const scale = () => Math.max(box[2] / map.clientWidth, box[3] / map.clientHeight); // metres on one pixel
  let asked = 0;
  let drawn = [...box];
  let rest = 0;
  // While the plan is moved or zoomed the picture itself is shifted; it is drawn anew, sharp, when the hand rests.
  function show() {
    if (asked) return;
    asked = requestAnimationFrame(() => {
      asked = 0;
      clearTimeout(rest);
      const grown = drawn[2] / box[2];
      const metres = Math.max(drawn[2] / map.clientWidth, drawn[3] / map.clientHeight);
      const right = (drawn[0] + drawn[2] / 2 - box[0] - box[2] / 2) / metres * grown;
      const down = (drawn[1] + drawn[3] / 2 - box[1] - box[3] / 2) / metres * grown;
      const near = grown < 3 && grown > 0.3 && Math.abs(right) < map.clientWidth * 0.6 && Math.abs(down) < map.clientHeight * 0.6;
      bar(scale());
      if (near) {
        map.style.transform = `translate(${right}px, ${down}px) scale(${grown})`;
        rest = setTimeout(sharp, 140);
      } else sharp();
    });
  }
  function sharp() {
    clearTimeout(rest);
    drawn = [...box];
    map.style.transform = "";
    map.setAttribute("viewBox", box.map((v) => v.toFixed(4)).join(" "));
    map.querySelector(".labels")?.setAttribute("font-size", (scale() * 12.5).toFixed(4));
    bar(scale());
  }
  function bar(metres) {
    const unit = document.querySelector('[name=units][value=us][aria-pressed=true]') ? 0.3048 : 1;
    const length = [0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500].find((l) => (l * unit) / metres > 70) ?? 1000;
    const high = overlay.clientHeight;
    overlay.querySelector(".scalebar path").setAttribute("d", `M14 ${high - 20}v6h${(length * unit) / metres}v-6`);
    const text = overlay.querySelector(".scalebar text");
    text.textContent = `${length} ${unit === 1 ? "m" : "ft"}`;
    text.setAttribute("x", 14);
    text.setAttribute("y", high - 26);
    overlay.querySelector(".northmark").setAttribute("transform", `translate(${overlay.clientWidth - 30} 32)`);
  }
  const at = (event) => {
    const sheet = overlay.getBoundingClientRect();
    const metres = scale();
    return {
      x: box[0] + box[2] / 2 + (event.clientX - sheet.x - sheet.width / 2) * metres,
      y: box[1] + box[3] / 2 + (event.clientY - sheet.y - sheet.height / 2) * metres,
    };
  };
  function zoom(factor, about) {
    const wide = Math.min(Math.max(box[2] * factor, 0.5), 20000);
    const real = wide / box[2];
    box = [about.x - (about.x - box[0]) * real, about.y - (about.y - box[1]) * real, wide, box[3] * real];
    show();
  }
  const middle = () => ({ x: box[0] + box[2] / 2, y: box[1] + box[3] / 2 });
  map.addEventListener("wheel", (event) => {
    event.preventDefault();
    zoom(Math.exp(event.deltaY * 0.0016), at(event));
  }, { passive: false });
  bench.querySelectorAll("[data-zoom]").forEach((button) => button.addEventListener("click", () => {
    if (button.dataset.zoom === "all") {
      box = bounds();
      sharp();
    } else zoom(button.dataset.zoom === "in" ? 0.7 : 1 / 0.7, middle());
  }));
  // The view widens to what was added beyond what was there.
  const bounds = () => map.querySelector("[data-box]").dataset.box.split(" ").map(Number);
  function widen(before) {
    const now = bounds();
    const inside = (a, b) => a[0] >= b[0] - 0.01 && a[1] >= b[1] - 0.01 && a[0] + a[2] <= b[0] + b[2] + 0.01 && a[1] + a[3] <= b[1] + b[3] + 0.01;
    if (!inside(now, before) && !inside(now, box)) box = now;
  }
  new ResizeObserver(sharp).observe(overlay);
  bench.querySelectorAll("[data-layer]").forEach((check) => check.addEventListener("change", () => {
    map.classList.toggle(`no-${check.dataset.layer}`, !check.checked);
  }));

  // --- asking the server ----------------------------------------------------------------------------------------
  // Changes are sent one after the other; what nobody answered stays in the queue and is sent again.
  const saving = window.cantrelSaving;
  const LOOKS = ["pick", "measure"]; // change nothing
  // A step by the keys starts from where the thing is when it is sent.
  function stepped({ act, extra, form }) {
    if (act !== "step") return { act, extra, form };
    const { corner, dx, dy, picked } = extra;
    if (corner === undefined) return { act: "move", extra: { picked, dx, dy }, form };
    const [x, y] = map.querySelector(`[data-corner="${corner}"]`).getAttribute("d").slice(1).split("h")[0].split(" ").map(Number);
    return { act: "corner", extra: { picked, corner, points: JSON.stringify([[x + dx, -y + dy]]) }, form };
  }
  const changes = (change) => !LOOKS.includes(change.act);
  // A panel may have become another thing's while its change waited: what was said of the one goes to that one.
  const read = (form) => new URLSearchParams(form ? new FormData(form) : undefined);
  function post(change) {
    const { act, extra, form } = stepped(change);
    const same = !form || form.dataset.of === change.of;
    const data = same ? read(form) : new URLSearchParams(change.said);
    Object.entries({ csrfmiddlewaretoken: token, ...extra, act }).forEach(([k, v]) => data.set(k, v));
    return window.cantrelPost(bench.dataset.url, data, changes(change));
  }
  // Steps of one thing by the arrow keys add up.
  function joined(last, next) {
    const [a, b] = [last.extra, next.extra];
    if (next.act !== "step" || last.act !== "step" || a.picked !== b.picked || a.corner !== b.corner) return null;
    return { ...next, extra: { ...b, dx: a.dx + b.dx, dy: a.dy + b.dy } };
  }
  const send = window.cantrelQueue({
    post, changes, joined,
    fields: (change) => change.form,
    show(answer, change, was, upTo) {
      const wrong = Object.keys(answer.errors ?? {}).length > 0;
      if (changes(change) && !wrong) saving.kept(upTo, `${window.cantrelSays("saved")}${answer.echo ? `. ${answer.echo}` : ""}`);
      else if (wrong) saving.wrong();
      if (change.act === "delete" && !wrong) window.cantrelToast(window.cantrelSays("takenOff"));
      take(answer, change.form, was);
    },
  });
  const ask = (act, extra = {}, form = null) => send({
    act, extra: { picked: bench.dataset.picked, ...extra }, form, of: form?.dataset.of, said: read(form).toString(),
  });
  const fault = (text) => { bench.querySelector("[data-form-error]").textContent = text; };
  // A panel of another thing is put in whole: a field that was touched would keep the value of the one before.
  function another(place, html) {
    const now = place.querySelector("form[data-of]")?.dataset.of;
    return now !== undefined && html.match(/data-of="(\d+)"/)?.[1] !== now;
  }
  function take(answer, form, was) {
    bench.dataset.answers = Number(bench.dataset.answers ?? 0) + 1;
    if (answer.measured) {
      readout.textContent = answer.measured;
      readout.dataset.raw = answer.raw;
      return;
    }
    const wrong = Object.keys(answer.errors).length > 0;
    fault(window.cantrelFaults(form, answer.errors));
    // What others changed meanwhile is shown beside what was typed here, so that saving again keeps both.
    Object.entries(answer.values ?? {}).forEach(([name, value]) => {
      const field = form?.elements[name];
      if (field?.type === "checkbox") field.checked = value === "on";
      else if (field) field.value = value;
    });
    if (wrong) {
      restore();
      return;
    }
    const focus = document.activeElement?.closest?.("[data-pick],[data-corner]");
    const again = focus && map.contains(focus) ? (focus.dataset.corner ? `[data-corner="${focus.dataset.corner}"]` : `[data-pick="${focus.dataset.pick}"]`) : null;
    bench.dataset.picked = answer.picked;
    const before = bounds();
    Object.entries(answer.fragments).forEach(([key, html]) => {
      const place = bench.querySelector(`[data-fragment="${key}"]`);
      if (map.contains(place) || another(place, html)) place.innerHTML = html;
      else window.cantrelSwap(place, html, was);
    });
    if (form) window.cantrelKept(was);
    learn();
    widen(before);
    sharp();
    if (again) map.querySelector(again)?.focus({ preventScroll: true });
    if (form?.dataset.form === "type-in") form.reset();
  }
  const restore = () => {
    map.querySelectorAll("[data-moved]").forEach((moved) => { moved.removeAttribute("transform"); moved.removeAttribute("data-moved"); });
  };
  function learn() {
    spots = [...map.querySelectorAll("polygon, polyline.run")].flatMap((shape) => shape.getAttribute("points").trim().split(/\s+/).map((p) => p.split(",").map(Number)));
    map.querySelectorAll(".jobtree").forEach((tree) => spots.push(tree.dataset.at.split(",").map(Number)));
  }
  const snapped = (place, but = []) => {
    if (!bench.querySelector("[data-snap]").checked) return place;
    const reach = scale() * 11;
    let best = null;
    spots.forEach(([x, y]) => {
      const gap = Math.hypot(x - place.x, y - place.y);
      if (gap < reach && gap < (best?.gap ?? Infinity) && !but.some((b) => b[0] === x && b[1] === y)) best = { gap, x, y };
    });
    if (best) return { x: best.x, y: best.y, held: true };
    const step = scale() > 0.06 ? 0.5 : 0.1;
    return { x: Math.round(place.x / step) * step, y: Math.round(place.y / step) * step };
  };
  const points = (list) => JSON.stringify(list.map((p) => [p.x, -p.y]));

  // --- tools ------------------------------------------------------------------------------------------------------
  function choose(name) {
    tool = name;
    stroke = [];
    rubber();
    readout.textContent = { draw: hintFor(), measure: window.cantrelSays("tapTwo") }[name] ?? "";
    bench.querySelectorAll("[data-tool]").forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.tool === name)));
    map.classList.toggle("aiming", name !== "select");
  }
  const kind = () => bench.querySelector("[data-kind]");
  const shape = () => kind().selectedOptions[0].dataset.shape;
  const how = () => ({ area: window.cantrelSays("tapCorners"), line: window.cantrelSays("tapAlong"), spot: window.cantrelSays("tapPlace") })[shape()];
  // What is drawn is said with the size it gets until somebody says another.
  const size = () => { const said = kind().selectedOptions[0].dataset.size; return said ? ` (${said})` : ""; };
  const hintFor = () => (writes ? how() + size() : "");
  bench.querySelectorAll("[data-tool]").forEach((button) => button.addEventListener("click", () => choose(button.dataset.tool)));
  kind()?.addEventListener("change", () => { if (tool === "draw") choose("draw"); });

  function rubber(next) {
    let line = map.querySelector(".rubber");
    if (!stroke.length) {
      line?.remove();
      return;
    }
    if (!line) {
      line = document.createElementNS(NS, "polyline");
      line.setAttribute("class", "rubber");
      map.append(line);
    }
    line.setAttribute("points", [...stroke, ...(next ? [next] : [])].map((p) => `${p.x},${p.y}`).join(" "));
  }
  function finish() {
    const least = { area: 3, line: 2, spot: 1 }[shape()];
    if (tool !== "draw" || stroke.length < least) return;
    ask("add", { kind: kind().value, points: points(stroke) });
    choose("select");
  }
  function tap(place) {
    if (taking) {
      taking.value = `${place.x.toFixed(2)} m; ${(-place.y).toFixed(2)} m`;
      taking = null;
      map.classList.remove("aiming");
      readout.textContent = "";
      return;
    }
    const first = stroke[0];
    if (tool === "draw" && shape() === "area" && stroke.length > 2 && Math.hypot(first.x - place.x, first.y - place.y) < scale() * 12) {
      finish();
      return;
    }
    stroke.push(place);
    rubber();
    if (tool === "measure" && stroke.length === 2) {
      ask("measure", { points: points(stroke) });
      const kept = stroke;
      stroke = [];
      map.querySelector(".rubber")?.setAttribute("points", kept.map((p) => `${p.x},${p.y}`).join(" "));
    }
    if (tool === "draw" && (shape() === "spot" || (kind().value === "conductor" && stroke.length === 2))) finish();
  }

  // --- pointers -----------------------------------------------------------------------------------------------------
  const fingers = new Map();
  let held = null;
  let pinch = 0;
  const apart = () => { const [a, b] = [...fingers.values()]; return Math.hypot(a.x - b.x, a.y - b.y); };
  map.addEventListener("pointerdown", (event) => {
    fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
    map.setPointerCapture(event.pointerId);
    if (fingers.size === 2) {
      pinch = apart();
      held = null;
      return;
    }
    const corner = event.target.closest("[data-corner]");
    const feature = event.target.closest("[data-pick]");
    const grab = tool === "select" && !taking && writes ? (corner ? "corner" : feature ? "feature" : "paper") : "paper";
    held = { grab, corner, feature, from: at(event), box: [...box], x: event.clientX, y: event.clientY, moved: false };
  });
  map.addEventListener("pointermove", (event) => {
    if (fingers.has(event.pointerId)) fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (fingers.size === 2) {
      const now = apart();
      const [a, b] = [...fingers.values()];
      zoom(pinch / now, at({ clientX: (a.x + b.x) / 2, clientY: (a.y + b.y) / 2 }));
      pinch = now;
      return;
    }
    if (stroke.length && tool === "draw") rubber(snapped(at(event)));
    if (!held) return;
    if (Math.hypot(event.clientX - held.x, event.clientY - held.y) > 5) held.moved = true;
    if (!held.moved) return;
    if (held.grab === "paper") {
      const metres = scale();
      box = [held.box[0] - (event.clientX - held.x) * metres, held.box[1] - (event.clientY - held.y) * metres, box[2], box[3]];
      show();
    } else drag(event);
  });
  function drag(event) {
    const now = at(event);
    if (held.grab === "corner") {
      const to = snapped(now, [held.from]);
      held.to = to;
      held.corner.setAttribute("d", `M${to.x} ${to.y}h.001`);
      return;
    }
    const mine = ends(held.feature);
    const by = { x: now.x - held.from.x, y: now.y - held.from.y };
    const first = mine[0] ?? [held.from.x, held.from.y];
    const to = snapped({ x: first[0] + by.x, y: first[1] + by.y }, mine);
    held.by = { x: to.x - first[0], y: to.y - first[1] };
    held.feature.setAttribute("transform", `translate(${held.by.x} ${held.by.y})`);
    held.feature.setAttribute("data-moved", "");
  }
  const ends = (feature) => {
    const drawn = feature.querySelector("polygon, polyline");
    if (drawn) return drawn.getAttribute("points").trim().split(/\s+/).map((p) => p.split(",").map(Number));
    const round = feature.querySelector("circle");
    return [[Number(round.getAttribute("cx")), Number(round.getAttribute("cy"))]];
  };
  const release = (event) => {
    fingers.delete(event.pointerId);
    const done = held;
    held = null;
    if (!done || event.type === "pointercancel") {
      restore();
      return;
    }
    if (!done.moved) {
      if (tool !== "select" || taking) tap(snapped(at(event)));
      else if (done.feature && !done.corner) ask("pick", { picked: done.feature.dataset.pick });
      else if (!done.corner && bench.dataset.picked) ask("pick", { picked: "" });
      return;
    }
    if (done.grab === "corner") ask("corner", { corner: done.corner.dataset.corner, points: points([done.to]) });
    if (done.grab === "feature") ask("move", { picked: done.feature.dataset.pick, dx: done.by.x, dy: -done.by.y });
  };
  map.addEventListener("pointerup", release);
  map.addEventListener("pointercancel", release);
  map.addEventListener("dblclick", (event) => {
    if (tool === "draw") {
      stroke.pop();
      finish();
      return;
    }
    const picked = map.querySelector(".feature.picked");
    const drawn = picked?.querySelector("polygon, polyline.run");
    if (!writes || !drawn || !picked.contains(event.target)) return;
    const all = ends(picked);
    const place = at(event);
    const off = (i) => {
      const [a, b] = [all[i], all[(i + 1) % all.length]];
      const part = ((place.x - a[0]) * (b[0] - a[0]) + (place.y - a[1]) * (b[1] - a[1])) / (Math.hypot(b[0] - a[0], b[1] - a[1]) ** 2 || 1);
      const clipped = Math.min(Math.max(part, 0), 1);
      return Math.hypot(place.x - a[0] - clipped * (b[0] - a[0]), place.y - a[1] - clipped * (b[1] - a[1]));
    };
    const sides = all.map((_, i) => i).filter((i) => drawn.tagName === "polygon" || i < all.length - 1);
    ask("insert", { corner: sides.reduce((a, b) => (off(b) < off(a) ? b : a)), points: points([snapped(place)]) });
  });

  // --- keys, buttons, forms -----------------------------------------------------------------------------------------
  const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
  map.addEventListener("keydown", (event) => {
    const corner = event.target.closest("[data-corner]");
    const feature = event.target.closest("[data-pick]");
    if (event.key === "Escape") choose("select");
    if (event.key === "Enter" && tool === "draw") finish();
    else if ((event.key === "Enter" || event.key === " ") && feature) {
      event.preventDefault();
      ask("pick", { picked: feature.dataset.pick });
    }
    if (event.key === "+" || event.key === "-") zoom(event.key === "+" ? 0.8 : 1.25, middle());
    if (!writes || !bench.dataset.picked) return;
    if (event.key === "Delete") ask(corner ? "corner-off" : "delete", corner ? { corner: corner.dataset.corner } : {});
    const arrow = ARROWS[event.key];
    if (!arrow) return;
    event.preventDefault();
    const step = event.shiftKey ? 1 : 0.1;
    ask("step", { ...(corner ? { corner: corner.dataset.corner } : {}), dx: arrow[0] * step, dy: arrow[1] * step });
  });
  bench.addEventListener("click", (event) => {
    const act = event.target.closest("[data-do]");
    if (act) ask(act.dataset.do, act.dataset.step ? { step: act.dataset.step } : {});
    const named = event.target.closest(".thinglist [data-pick]");
    if (named) ask("pick", { picked: named.dataset.pick });
    const take1 = event.target.closest("[data-take]");
    if (take1) {
      taking = document.getElementById(take1.dataset.take);
      map.classList.add("aiming");
      readout.textContent = window.cantrelSays("tapSpot");
    }
  });
  // What is picked, and the ground, save themselves.
  bench.addEventListener("input", (event) => { if (event.target.closest("[data-saves-itself]")) saving.touched(); });
  bench.addEventListener("change", (event) => {
    const form = event.target.closest("[data-saves-itself]");
    if (form) ask(form.dataset.form, {}, form);
  });
  bench.addEventListener("submit", (event) => {
    const form = event.target;
    if (form.matches("[data-form]")) {
      event.preventDefault();
      ask(form.dataset.form, {}, form);
    }
  });
  learn();
  sharp();
})();
