"use strict";
// The tree's body: drag the picture to walk round the tree, tap limbs, draw new ones. The server answers with everything.
(() => {
  const bench = document.querySelector("[data-bench]");
  const form = bench.querySelector("[data-bench-form]");
  const ask = (extra, save) => bench.dispatchEvent(new CustomEvent("ask", { detail: { extra, save } }));
  const draws = bench.querySelector("[data-draw]");
  const svg = () => bench.querySelector(".turnable svg");
  let held = null;

  bench.addEventListener("click", (event) => {
    const target = event.target.closest("[data-act]");
    if (!target || held?.moved) return;
    ask({ act: target.dataset.act, which: target.dataset.which ?? "" }, target.dataset.act !== "pick");
  });
  // A limb that is picked saves itself; a new one is added by its button.
  const limb = (event) => event.target.closest("[data-of]")?.dataset.of;
  bench.addEventListener("input", (event) => { if (limb(event)) window.cantrelSaving.touched(); });
  bench.addEventListener("change", (event) => { if (limb(event)) ask({ act: "limb-save" }, true); });
  draws?.addEventListener("click", () => {
    const on = draws.getAttribute("aria-pressed") !== "true";
    draws.setAttribute("aria-pressed", String(on));
    bench.classList.toggle("drawing-now", on);
  });
  const drawing = () => draws?.getAttribute("aria-pressed") === "true";
  const place = (event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(svg().getScreenCTM().inverse());

  bench.addEventListener("pointerdown", (event) => {
    if (!event.target.closest(".turnable svg") || event.target.closest("[data-handle]")) return;
    held = { x: event.clientX, view: Number(form.elements.view.value), moved: false, from: place(event) };
    if (drawing()) event.preventDefault();
  });
  window.addEventListener("pointermove", (event) => {
    if (!held) return;
    if (Math.abs(event.clientX - held.x) > 4) held.moved = true;
    if (!held.moved) return;
    if (drawing()) {
      stroke(held.from, place(event));
      return;
    }
    form.elements.view.value = ((Math.round(held.view - (event.clientX - held.x) * 0.45) % 360) + 360) % 360;
    ask({}, false);
  });
  window.addEventListener("pointerup", (event) => {
    if (!held) return;
    if (held.moved && drawing()) {
      const to = place(event);
      ask({ act: "draw", frame: svg().dataset.frame, x: held.from.x, y: held.from.y, x1: to.x, y1: to.y }, true);
      draws.click();
    }
    setTimeout(() => { held = null; });
  });
  const stroke = (from, to) => {
    let line = svg().querySelector(".stroke");
    if (!line) {
      line = document.createElementNS("http://www.w3.org/2000/svg", "line");
      line.setAttribute("class", "stroke");
      svg().append(line);
    }
    Object.entries({ x1: from.x, y1: from.y, x2: to.x, y2: to.y }).forEach(([key, value]) => line.setAttribute(key, value));
  };
})();
