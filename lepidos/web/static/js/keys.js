// Keys: data-key presses a button, data-key-focus goes to a field, 1 to 6 go to stations.
const TYPED_IN = "input:not([type=radio]):not([type=checkbox]), textarea, select";

const showKeys = () => document.getElementById("keys").showModal();

const OFF = "lepidos.single_keys"; // "off" on a device where a stray key must do nothing

function isShortcut(event) {
  if (event.key.length === 1 && localStorage.getItem(OFF) === "off") return false;
  if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return false;
  // a foot pedal turns pages, also while a field has the focus
  const pedal = event.key === "PageDown" || event.key === "PageUp";
  if (event.target.matches(TYPED_IN) && !pedal) return false;
  return !(event.key === " " && event.target.matches("button, a, summary, input, [role=button]"));
}

document.addEventListener("keydown", (event) => {
  if (!isShortcut(event)) return;
  const key = CSS.escape(event.key === " " ? "space" : event.key.toLowerCase());
  if (event.key === "?") {
    showKeys();
    return;
  }
  const button = [...document.querySelectorAll(`[data-key~="${key}"]`)].find((one) => !one.closest("[hidden]"));
  const field = document.querySelector(`[data-key-focus="${key}"]`);
  const station = document.querySelector(`[data-station="${key}"]`);
  if (!(button || field || station) || document.querySelector("dialog[open]")) return;
  event.preventDefault();
  if (button) {
    button.click();
    // what opens has its own fields: the tab key goes on from there
    if (button.matches("summary")) button.focus({ preventScroll: true });
  } else if (field) field.focus();
  else station.click();
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-keys-open]")) showKeys();
});

const choice = document.querySelector("[data-single-keys]");
if (choice) {
  choice.checked = localStorage.getItem(OFF) !== "off";
  choice.addEventListener("change", () => localStorage.setItem(OFF, choice.checked ? "on" : "off"));
}
