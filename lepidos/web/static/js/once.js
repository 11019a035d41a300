// A form sends once; the server's keys make a repeat harmless, this only spares the wait.
"use strict";
document.addEventListener("submit", (event) => {
  const form = event.target.closest("form[data-once]");
  if (!form) return;
  if (form.dataset.sent) return event.preventDefault();
  form.dataset.sent = "yes";
});
window.addEventListener("pageshow", () => {
  document.querySelectorAll("form[data-sent]").forEach((form) => delete form.dataset.sent);
});
