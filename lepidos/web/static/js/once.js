// A form sends once; the server's keys make a repeat harmless, this only spares the wait.
import { answers, getJson } from "./api.js";

const PROGRESS_MS = 400;
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

// How far it is, where the app knows, until the next page is there.
function follow(bar, path) {
  const timer = setInterval(async () => {
    if (!bar.isConnected) {
      clearInterval(timer);
      return;
    }
    const { done, of } = await getJson(path, { done: 0, of: 0 });
    if (!of) return;
    bar.max = of;
    bar.value = done;
    bar.title = `${done} of ${of}`;
  }, PROGRESS_MS);
}

// What takes seconds says so, and that it goes on.
document.addEventListener("submit", (event) => {
  const { busy } = event.target.dataset;
  if (!busy || event.defaultPrevented) return;
  const said = document.createElement("p");
  said.className = "busy";
  said.setAttribute("role", "status");
  const bar = document.createElement("progress");
  said.append(busy, bar);
  event.target.append(said);
  const key = new FormData(event.target).get("key");
  if (key) follow(bar, `/live/progress/${encodeURIComponent(key)}`);
});

window.addEventListener("pageshow", () => {
  for (const form of document.querySelectorAll("form[data-sent]")) delete form.dataset.sent;
  for (const said of document.querySelectorAll(".busy")) said.remove();
});
