"use strict";
// A list whose lines save themselves: a tap is an answer. Each line is sent by itself, one after the other.
(() => {
  const list = document.querySelector("[data-lines]");
  if (!list) return;
  const saving = window.cantrelSaving;
  // A line that waits is sent once, as it stands then.
  const send = window.cantrelQueue({
    post: (form) => window.cantrelPost(form.action, new FormData(form), true),
    changes: () => true,
    joined: (last, next) => (last === next ? next : null),
    fields: (form) => form,
    show(answer, form, was, upTo) {
      if (answer.saved) saving.kept(upTo);
      else saving.wrong();
      show(answer, was);
    },
  });
  function show(answer, was) {
    Object.entries(answer.fragments).forEach(([key, html]) => {
      const [what, name] = key.split(" ");
      if (what !== "line") window.cantrelSwap(list.querySelector(`[data-fragment="${key}"]`), html, was);
      else {
        const [place, shelf] = [document.getElementById(`hazard-${name}`), document.createElement("template")];
        shelf.innerHTML = html.trim();
        place.className = shelf.content.firstElementChild.className;
        window.cantrelSwap(place, shelf.content.firstElementChild.innerHTML, was);
      }
    });
    list.dataset.answers = Number(list.dataset.answers ?? 0) + 1;
  }
  list.addEventListener("input", (event) => {
    if (event.target.closest("[data-line]")) saving.touched();
  });
  list.addEventListener("change", (event) => {
    const form = event.target.closest("[data-line]");
    if (!form || event.target.name === "line") return;
    send(form);
  });
  list.addEventListener("submit", (event) => {
    if (!event.target.matches("[data-line]")) return;
    event.preventDefault();
    send(event.target);
  });
})();
