"use strict";
// Placing a cut: after the button is pressed, a touch on the tree asks the server which member it was and where.
(() => {
  const source = document.currentScript.dataset.sorter;
  const bench = document.querySelector("[data-bench]");
  const button = bench?.querySelector("[data-placing]");
  if (!button || bench.hasAttribute("data-read-only")) return;
  const ask = (extra) => bench.dispatchEvent(new CustomEvent("ask", { detail: { extra, save: true } }));
  const set = (on) => {
    button.setAttribute("aria-pressed", String(on));
    bench.classList.toggle("placing", on);
  };
  button.addEventListener("click", () => set(button.getAttribute("aria-pressed") !== "true"));
  bench.addEventListener("click", (event) => {
    const svg = event.target.closest("[data-place]");
    if (!svg || button.getAttribute("aria-pressed") !== "true") return;
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    set(false);
    const extra = { handle: "place", frame: svg.dataset.frame, x: point.x, y: point.y };
    ask(extra);
  });
  // Dragging the picture beside its handles walks round the tree.
  const view = bench.querySelector("[data-bench-form]").elements.view;
  let held = null;
  bench.addEventListener("pointerdown", (event) => {
    if (!event.target.closest("[data-place]") || event.target.closest("[data-handle]")) return;
    if (button.getAttribute("aria-pressed") !== "true") held = { x: event.clientX, view: Number(view.value), moved: false };
  });
  window.addEventListener("pointermove", (event) => {
    if (!held) return;
    const moved = event.clientX - held.x;
    held.moved ||= Math.abs(moved) > 4;
    if (!held.moved) return;
    view.value = ((Math.round(held.view - moved * 0.45) % 360) + 360) % 360;
    bench.dispatchEvent(new CustomEvent("ask", { detail: { extra: { view: view.value }, save: false } }));
  });
  for (const end of ["pointerup", "pointercancel"]) window.addEventListener(end, () => { held = null; });
  document.addEventListener("pinched", () => { held = null; });
  // The pick that is looked at stays in sight in its list.
  const list = bench.querySelector("[data-fragment=list]");
  let shown = null;
  const show = () => {
    const [box, row] = [list.querySelector(".picks"), list.querySelector(".picked")];
    const now = view.form.elements.pick.value;
    if (box && row && now !== shown) box.scrollLeft = row.offsetLeft - (box.clientWidth - row.offsetWidth) / 2;
    shown = now;
  };
  bench.addEventListener("answered", show);
  show();
  // Fields that the chosen way of taking a piece does not ask for stand back; what is typed in them stays.
  const panel = bench.querySelector("[data-fragment=panel]");
  const asked = () => {
    panel.querySelectorAll("[data-asks]").forEach((box) => {
      const chosen = panel.querySelector(`[name=${box.dataset.asks}]`)?.value;
      box.hidden = !box.dataset.values.split(" ").includes(chosen) && !box.querySelector(".wrong");
    });
  };
  panel.addEventListener("change", asked);
  bench.addEventListener("answered", asked);
  asked();
  // Changes that pass are looked for when the hand rests; a newer answer ends an older search.
  const form = bench.querySelector("[data-bench-form]");
  let search = null;
  let rests = 0;
  const mends = () => {
    clearTimeout(rests);
    search?.abort();
    const place = bench.querySelector("[data-mends]");
    if (!place) return;
    rests = setTimeout(async () => {
      search = new AbortController();
      const url = `${bench.dataset.mendsUrl}?pick=${encodeURIComponent(form.elements.pick.value)}`;
      const answer = await fetch(url, { signal: search.signal, headers: { "X-Requested-With": "fetch" } }).catch(() => null);
      if (answer?.ok) place.innerHTML = await answer.text();
    }, 300);
  };
  bench.addEventListener("answered", mends);
  mends();
  // A lead is laid out in picks: looked at one by one, kept all together, or not at all.
  const lay = bench.querySelector("[data-lay]");
  const progress = lay?.querySelector("[data-progress]");
  let stopped = false;
  lay?.querySelector("[data-stop]").addEventListener("click", () => { stopped = true; });
  lay?.addEventListener("submit", async (event) => {
    event.preventDefault();
    const button = lay.querySelector("button.strong");
    [stopped, button.disabled] = [false, true];
    let body = new FormData(lay);
    try {
      for (;;) {
        const response = await window.cantrelPost(lay.action, body, false);
        if (!response.ok) throw new Error(response.status);
        const { laid, errors } = await response.json();
        faults(errors);
        if (!laid || stopped) break;
        progress.hidden = false;
        [progress.querySelector("progress").max, progress.querySelector("progress").value] = [laid.of, laid.seen];
        progress.querySelector("span").textContent = laid.said;
        if (laid.seen >= laid.of) {
          ask({ handle: `lay-take ${laid.token}` });
          break;
        }
        body = new FormData();
        body.set("csrfmiddlewaretoken", lay.elements.csrfmiddlewaretoken.value);
        body.set("token", laid.token);
      }
    } catch (error) {
      faults({ __all__: [window.cantrelSays("notReached", error.message)] });
    }
    [progress.hidden, button.disabled] = [true, false];
  });
  function faults(errors) {
    lay.querySelector("[data-form-error]").textContent = window.cantrelFaults(lay, errors);
  }
  // A pick is dragged to another place in the order by its grip, with a mouse or a thumb; keys have its two arrows.
  const sorted = new WeakSet();
  const sorts = () => {
    const box = list.querySelector(".picks");
    if (!window.Sortable || !box || sorted.has(box) || !box.querySelector(".grip")) return;
    sorted.add(box);
    let was = [];
    const names = () => [...box.querySelectorAll("[data-order]")].map((row) => row.dataset.order);
    window.Sortable.create(box, {
      handle: ".grip",
      animation: 120,
      onStart: () => { was = names(); },
      onEnd: ({ item, newIndex }) => {
        const [name, to] = [item.dataset.order, was[newIndex]];
        if (to && to !== name) ask({ handle: `move ${name} ${to}` });
      },
    });
  };
  bench.addEventListener("answered", sorts);
  // What sorts is brought when a hand comes near the strip, or a while after the page stands: nobody waits for it first.
  const bring = () => {
    if (document.querySelector("[data-brought]")) return;
    const script = document.createElement("script");
    script.src = source;
    script.dataset.brought = "";
    script.addEventListener("load", sorts);
    document.head.append(script);
  };
  for (const near of ["pointerover", "touchstart", "focusin"]) list.addEventListener(near, bring, { once: true, passive: true });
  window.addEventListener("load", () => setTimeout(bring, 4000));
})();
