// Keys: data-key presses a button, data-key-focus goes to a field, 1 to 6 go to stations.
"use strict";
document.addEventListener("keydown", (event) => {
  const typing = event.target.matches("input:not([type=radio]):not([type=checkbox]), textarea, select");
  // a foot pedal turns pages, also while a field has the focus
  const pedal = event.key === "PageDown" || event.key === "PageUp";
  if ((typing && !pedal) || event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === " " && event.target.matches("button, a, summary, input")) return;
  const key = event.key === " " ? "space" : event.key.toLowerCase();
  if (key === "?") return document.querySelector("dialog.keys").showModal();
  const station = document.querySelector(`[data-station="${CSS.escape(key)}"]`);
  const button = document.querySelector(`[data-key~="${CSS.escape(key)}"]`);
  const field = document.querySelector(`[data-key-focus="${CSS.escape(key)}"]`);
  const found = button || field || station;
  if (!found || document.querySelector("dialog[open]")) return;
  event.preventDefault();
  if (field && !button) field.focus();
  else found.click();
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-keys-open]")) document.querySelector("dialog.keys").showModal();
});
