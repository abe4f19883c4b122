"use strict";
// A list whose lines save themselves: a tap is an answer. Each line is sent by itself, one after the other.
(() => {
  const list = document.querySelector("[data-lines]");
  if (!list) return;
  const saving = window.cantrelSaving;
  const waiting = new Map(); // form -> what was done to it last
  let chain = Promise.resolve();
  let sending = 0;
  let again = 0;

  function send(form) {
    waiting.set(form, saving.typed());
    sending += 1;
    chain = chain.then(() => one(form)).finally(() => { sending -= 1; });
    return chain;
  }
  async function one(form) {
    if (!waiting.has(form)) return;
    const [upTo, was] = [waiting.get(form), window.cantrelSent(form)];
    try {
      const body = new FormData(form);
      const photo = [...body.values()].some((value) => value instanceof File && value.size);
      const response = await fetch(form.action, { method: "POST", body, keepalive: !photo, headers: { "X-Requested-With": "fetch" } });
      const shut = window.cantrelShutOut(response);
      if (shut) return saving.shut(shut);
      if (!response.ok) throw new Error(response.status);
      const answer = await response.json();
      if (waiting.get(form) === upTo) waiting.delete(form);
      saving.answered();
      if (answer.saved) saving.kept(waiting.size ? -1 : upTo);
      else saving.wrong();
      show(answer, was);
    } catch (error) {
      saving.away(error);
      clearTimeout(again);
      again = setTimeout(retry, 5000);
    }
  }
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
  const retry = () => [...waiting.keys()].forEach(send);
  window.addEventListener("online", retry);
  window.addEventListener("focus", retry);

  list.addEventListener("input", (event) => {
    if (event.target.closest("[data-line]")) saving.touched();
  });
  list.addEventListener("change", (event) => {
    const form = event.target.closest("[data-line]");
    if (!form || event.target.name === "line") return;
    saving.touched();
    send(form);
  });
  list.addEventListener("submit", (event) => {
    if (!event.target.matches("[data-line]")) return;
    event.preventDefault();
    saving.touched();
    send(event.target);
  });
  saving.signOn({ busy: () => sending > 0, flush: () => chain, parting() {} });
})();
