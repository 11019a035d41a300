// A form sends once; the server's keys make a repeat harmless, this only spares the wait.
document.addEventListener("submit", (event) => {
  const form = event.target.closest("form[data-once]");
  if (!form) return;
  if (form.dataset.sent) {
    event.preventDefault();
    return;
  }
  form.dataset.sent = "yes";
});

window.addEventListener("pageshow", () => {
  for (const form of document.querySelectorAll("form[data-sent]")) delete form.dataset.sent;
});
