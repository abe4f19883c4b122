"use strict";
// Every drawing is brought nearer with the wheel (Ctrl held, so that the page still scrolls), with two fingers, or with
// + and - where it has the focus; a double tap on its paper shows it whole again. Answers keep how near it is.
(() => {
  const MOST = 8;
  const kept = new Map();
  const drawing = (target) => target.closest?.("svg.drawing:not(.sitemap)");
  const nameOf = (svg) => `${svg.closest("[data-fragment]")?.dataset.fragment ?? ""} ${svg.getAttribute("class")}`;
  const whole = (svg) => (svg.dataset.whole ??= svg.getAttribute("viewBox")).split(" ").map(Number);

  function show(svg, [x, y, near]) {
    const [left, top, wide, high] = whole(svg);
    const [w, h] = [wide / near, high / near];
    const at = [Math.min(Math.max(x, left), left + wide - w), Math.min(Math.max(y, top), top + high - h)];
    svg.setAttribute("viewBox", [...at, w, h].map((n) => n.toFixed(2)).join(" "));
    if (near > 1.001) kept.set(nameOf(svg), [...at, near]);
    else kept.delete(nameOf(svg));
    window.cantrelSized();
  }

  const pointOf = (svg, x, y) => new DOMPoint(x, y).matrixTransform(svg.getScreenCTM().inverse());

  // Nearer or further about a place on the glass, which stays where it is; moved by so much of the glass besides.
  function zoom(svg, factor, x, y, dx = 0, dy = 0) {
    const [, , wide] = whole(svg);
    const { x: left, y: top, width } = svg.viewBox.baseVal;
    const near = Math.min(Math.max((wide / width) * factor, 1), MOST);
    const [at, k] = [pointOf(svg, x, y), wide / near / width];
    const unit = width / svg.clientWidth;
    show(svg, [at.x - (at.x - left) * k - dx * unit * k, at.y - (at.y - top) * k - dy * unit * k, near]);
  }

  document.addEventListener("wheel", (event) => {
    const svg = drawing(event.target);
    if (!svg || !(event.ctrlKey || event.metaKey)) return;
    event.preventDefault();
    zoom(svg, Math.exp(-event.deltaY / 300), event.clientX, event.clientY);
  }, { passive: false });

  document.addEventListener("keydown", (event) => {
    const svg = drawing(event.target);
    const factor = { "+": 1.25, "=": 1.25, "-": 0.8 }[event.key];
    if (!svg || !factor || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    const box = (event.target.closest("[data-handle]") ?? svg).getBoundingClientRect();
    zoom(svg, factor, box.left + box.width / 2, box.top + box.height / 2);
  });

  document.addEventListener("dblclick", (event) => {
    const svg = drawing(event.target);
    if (!svg || event.target.closest("[data-handle]")) return;
    const [left, top] = whole(svg);
    show(svg, [left, top, 1]);
  });

  const fingers = new Map();
  let last = null;
  const pinched = () => {
    const [a, b] = [...fingers.values()];
    return { far: Math.hypot(a.x - b.x, a.y - b.y), x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, svg: a.svg };
  };
  document.addEventListener("pointerdown", (event) => {
    const svg = drawing(event.target);
    if (!svg || event.pointerType !== "touch") return;
    fingers.set(event.pointerId, { x: event.clientX, y: event.clientY, svg });
    if (fingers.size !== 2) return;
    last = pinched();
    document.dispatchEvent(new CustomEvent("pinched"));  // what one finger began is none: nothing is dragged by two
  });
  document.addEventListener("pointermove", (event) => {
    const finger = fingers.get(event.pointerId);
    if (!finger) return;
    [finger.x, finger.y] = [event.clientX, event.clientY];
    if (fingers.size !== 2 || !last) return;
    const now = pinched();
    zoom(now.svg, now.far / last.far, last.x, last.y, now.x - last.x, now.y - last.y);
    last = now;
  });
  for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, (event) => {
    fingers.delete(event.pointerId);
    if (fingers.size < 2) last = null;
  });

  // An answer draws a drawing anew: it comes as near as it was.
  window.cantrelZoomed = () => document.querySelectorAll("svg.drawing:not(.sitemap)").forEach((svg) => {
    const was = kept.get(nameOf(svg));
    if (!was) return;
    delete svg.dataset.whole;
    show(svg, was);
  });
})();
