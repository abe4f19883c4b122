"use strict";
// A species is found by typing part of its common or its scientific name.
document.querySelectorAll("select[name=species]").forEach((field) => {
  if (field.disabled || field.closest("fieldset[disabled]")) return;
  const box = new window.TomSelect(field, { maxOptions: null, searchField: ["text"], selectOnTab: true, openOnFocus: true });
  box.control_input.setAttribute("autocomplete", "off");
  field.setAttribute("aria-hidden", "true"); // the box beside it has the label
});
