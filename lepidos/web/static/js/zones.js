// A touch on a zone of the drawing presses that piece's button; the buttons are the keyboard's way.
"use strict";
document.addEventListener("click", (event) => {
  const zone = event.target.closest("[data-slot]");
  if (!zone) return;
  const button = document.querySelector(`button[name=slot][value="${CSS.escape(zone.dataset.slot)}"]`);
  if (button) button.click();
});
