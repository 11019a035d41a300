// A touch on a zone of the drawing presses that piece's button; the buttons are the keyboard's way.
import { marking } from "./spots.js";

document.addEventListener("click", (event) => {
  const zone = event.target.closest("[data-slot]");
  if (!zone || marking()) return;
  document.querySelector(`button[name=slot][value="${CSS.escape(zone.dataset.slot)}"]`)?.click();
});
