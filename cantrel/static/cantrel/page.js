"use strict";
// What scripts say, in the reader's language: the page brings the words, {n} is filled in.
window.cantrelSays = (name, ...values) =>
  values.reduce((said, value) => said.replace("{n}", value), document.getElementById("words").dataset[name]);
// What every page has: light or dusk, the help sheet, keys for the steps, and typed numbers kept across a unit switch.
(() => {
  const root = document.documentElement;
  const kept = localStorage.getItem("cantrel-light");
  if (kept) root.dataset.light = kept;

  document.addEventListener("alpine:init", () => {
    window.Alpine.data("page", () => ({
      fresh: localStorage.getItem("cantrel-hint") === null,
      dusk() {
        const dark = root.dataset.light ? root.dataset.light === "dusk" : matchMedia("(prefers-color-scheme: dark)").matches;
        root.dataset.light = dark ? "day" : "dusk";
        localStorage.setItem("cantrel-light", root.dataset.light);
      },
      help() { document.getElementById("help").showModal(); },
      print() { window.print(); },
      aloud() {
        const voice = window.speechSynthesis;
        if (!voice) return;
        const speaking = voice.speaking;
        voice.cancel();
        if (speaking) return;
        document.querySelectorAll("[data-steps] li").forEach((li, i) => voice.speak(new SpeechSynthesisUtterance(`${i + 1}. ${li.textContent}`)));
      },
      understood() {
        this.fresh = false;
        localStorage.setItem("cantrel-hint", "1");
      },
    }));
  });

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.target.closest("input, textarea, select")) return;
    if (event.key === "?") document.getElementById("help").showModal();
    const step = document.querySelector(`.strip a[data-key="${CSS.escape(event.key)}"]`);
    if (step) step.click();
    if (event.key === "u") document.querySelector("[data-undo]")?.click();
    if (event.key === "U") document.querySelector("[data-redo]")?.click();
  });

  // A file's size is looked at before it is sent.
  document.querySelector("[data-upload]")?.addEventListener("submit", (event) => {
    const form = event.target;
    const file = form.querySelector("[type=file]").files[0];
    if (!file || file.size <= Number(form.dataset.most)) return;
    event.preventDefault();
    const megabytes = (bytes) => Math.round(bytes / 1048576);
    form.querySelector(".error").textContent = window.cantrelSays("tooLarge", megabytes(file.size), megabytes(form.dataset.most));
  });

  // Whether a person touched a field since its page was drawn, or since it was saved.
  const changed = (field) => {
    if (field.type === "checkbox" || field.type === "radio") return field.checked !== field.defaultChecked;
    if (field.tagName === "SELECT") return [...field.options].some((o) => o.selected !== o.defaultSelected);
    return field.value !== field.defaultValue;
  };

  // A form that says which save it stands on sends only what was changed: what nobody touched here stays as others left it.
  document.addEventListener("formdata", (event) => {
    const form = event.target;
    if (!form.hasAttribute("data-changed-only") || form.dataset.sends === "all") return;
    const fields = [...form.elements].filter((field) => field.name && !field.closest("[data-always]") && !["hidden", "submit", "button", "file"].includes(field.type));
    const touched = new Set(fields.filter(changed).map((field) => field.name));
    fields.forEach((field) => { if (!touched.has(field.name)) event.formData.delete(field.name); });
    event.formData.set("changed", [...touched].join(" "));
  });

  // After a save the page stands on what was sent with it; what was typed since is still to be sent.
  const boxed = (field) => field.type === "checkbox" || field.type === "radio";
  window.cantrelSent = (form) => new Map([...form.elements].map((field) => [field, boxed(field) ? field.checked : field.value]));
  window.cantrelKept = (sent) => sent.forEach((value, field) => {
    if (boxed(field)) field.defaultChecked = value;
    else if (field.tagName === "SELECT") [...field.options].forEach((o) => { o.defaultSelected = o.value === value; });
    else if (field.type !== "hidden" && "defaultValue" in field) field.defaultValue = value;
  });

  // A unit switch reloads the page: what was typed and not saved comes back with its old unit written out.
  const drawer = `cantrel-typed:${location.pathname}`;
  const fields = () => [...document.querySelectorAll("main form input, main form textarea, main form select")]
    .filter((field) => field.name && !["hidden", "submit", "button"].includes(field.type));
  const name = (field) => `${field.form.getAttribute("action") || ""}|${field.name}|${field.type === "radio" ? field.value : ""}`;
  document.querySelector("form[data-keep-typed]")?.addEventListener("submit", () => {
    const typed = {};
    fields().filter(changed).forEach((field) => {
      const unit = field.dataset.unit && /^[\s\d.,+−-]+$/.test(field.value) ? ` ${field.dataset.unit}` : "";
      typed[name(field)] = field.type === "checkbox" || field.type === "radio" ? field.checked : field.value + unit;
    });
    sessionStorage.setItem(drawer, JSON.stringify(typed));
  });
  const typed = JSON.parse(sessionStorage.getItem(drawer) || "{}");
  sessionStorage.removeItem(drawer);
  fields().forEach((field) => {
    const value = typed[name(field)];
    if (value === undefined) return;
    if (typeof value === "boolean") field.checked = value;
    else field.value = value;
    field.closest("details")?.setAttribute("open", "");
  });
})();
