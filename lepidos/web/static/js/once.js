// A form sends once; the server's keys make a repeat harmless, this only spares the wait.
import { answers } from "./api.js";

const NO_ANSWER = "The app does not answer. Nothing was sent, and what you filled in stays: try again when it does.";

function say(form) {
  const said = form.querySelector(".no-answer") || document.createElement("p");
  said.className = "no-answer field-problem";
  said.setAttribute("role", "alert");
  said.textContent = NO_ANSWER;
  form.prepend(said);
}

// With data-ask it is asked first whether the app is there: the browser's own page of a lost connection would
// stand where the work was.
async function sendIfThere(form, button) {
  if (await answers()) {
    if (button?.name) {
      const chosen = document.createElement("input");
      Object.assign(chosen, { type: "hidden", name: button.name, value: button.value });
      form.append(chosen);
    }
    form.submit();
    return;
  }
  delete form.dataset.sent;
  say(form);
}

document.addEventListener("submit", (event) => {
  const form = event.target.closest("form[data-once]");
  if (!form) return;
  if (form.dataset.sent) {
    event.preventDefault();
    return;
  }
  form.dataset.sent = "yes";
  if (event.defaultPrevented || !("ask" in form.dataset)) return;
  event.preventDefault();
  sendIfThere(form, event.submitter);
});

// What takes seconds says so, and that it goes on.
document.addEventListener("submit", (event) => {
  const { busy } = event.target.dataset;
  if (!busy || event.defaultPrevented) return;
  const said = document.createElement("p");
  said.className = "busy";
  said.setAttribute("role", "status");
  said.append(busy, document.createElement("progress"));
  event.target.append(said);
});

window.addEventListener("pageshow", () => {
  for (const form of document.querySelectorAll("form[data-sent]")) delete form.dataset.sent;
  for (const said of document.querySelectorAll(".busy")) said.remove();
});
