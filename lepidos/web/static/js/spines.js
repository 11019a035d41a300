// Venomous spines are counted off one by one: the button books its step only with the last of them.
import { cue } from "./cues.js";

const KNOCK_MS = 400; // one knock of a glove is one spine
let lastAt = 0;

const counted = () => document.querySelector("#b-disarmed[data-count]");
const keyOf = (button) => `lepidos.spines.${document.querySelector("[data-fish]").dataset.fish}.${button.dataset.step}`;
const countOf = (button) => Number(sessionStorage.getItem(keyOf(button))) || 0;

function paint() {
  const button = counted();
  if (!button) return;
  const off = countOf(button);
  const words = button.querySelector("[data-words]");
  button.dataset.last ||= words.textContent;
  const most = Number(button.dataset.count);
  words.textContent = off + 1 < most ? `Spine ${off + 1} of ${most} is off` : button.dataset.last;
  document.getElementById("b-spine-back").hidden = off === 0;
}

function keep(button, off) {
  sessionStorage.setItem(keyOf(button), String(off));
  paint();
}

function press(event, button) {
  const knock = Date.now() - lastAt < KNOCK_MS;
  if (!knock) lastAt = Date.now();
  const off = countOf(button) + 1;
  if (!knock && off >= Number(button.dataset.count)) {
    sessionStorage.removeItem(keyOf(button));
    return; // the last: its form is sent
  }
  event.preventDefault();
  event.stopPropagation();
  if (knock) return;
  cue("taken");
  keep(button, off);
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("#b-disarmed[data-count]");
  if (button) press(event, button);
  if (event.target.closest("#b-spine-back")) keep(counted(), Math.max(0, countOf(counted()) - 1));
}, true);
document.addEventListener("lepidos:fresh", paint);
paint();
