// A touch on a zone of the drawing presses that piece's button; the buttons are the keyboard's way.
document.addEventListener("click", (event) => {
  const zone = event.target.closest("[data-slot]");
  if (!zone) return;
  document.querySelector(`button[name=slot][value="${CSS.escape(zone.dataset.slot)}"]`)?.click();
});
