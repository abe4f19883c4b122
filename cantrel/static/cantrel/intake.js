"use strict";
// While a file is taken in the page shows how far it is.
(() => {
  const page = document.querySelector("[data-intake]");
  const form = page?.querySelector("[data-now]");
  form?.addEventListener("submit", async (event) => {
    event.preventDefault();
    const place = page.querySelector("[data-progress]");
    const [bar, said] = [place.querySelector("progress"), place.querySelector("span")];
    form.querySelector("button").disabled = true;
    place.hidden = false;
    const answer = await fetch(form.action, { method: "POST", body: new FormData(form), headers: { "X-Requested-With": "fetch" } });
    if (!answer.ok) {
      said.textContent = window.cantrelSays("notTakenIn", answer.status);
      form.querySelector("button").disabled = false;
      return;
    }
    for (;;) {
      await new Promise((next) => { setTimeout(next, 250); });
      const far = await (await fetch(page.dataset.far)).json();
      if (far.of) {
        bar.value = far.done / far.of;
        said.textContent = window.cantrelSays("lines", far.done, far.of);
      }
      if (far.fault) {
        said.textContent = window.cantrelSays("fault", far.fault);
        form.querySelector("button").disabled = false;
        return;
      }
      if (far.taken !== null) {
        bar.value = 1;
        window.location = page.dataset.after;
        return;
      }
    }
  });
})();
