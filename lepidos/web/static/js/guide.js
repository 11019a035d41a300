// A fish's page in the guide: its plan changes in place, its size is dragged, its cuts are played in order.
import { fetchPage } from "./api.js";

const PLAY_MS = 2600;
const STILL = window.matchMedia("(prefers-reduced-motion: reduce)");
let playing = 0;
let asked = 0;

async function swap(address) {
  const mine = ++asked;
  const page = await fetchPage(address);
  if (mine !== asked) return; // another was asked for meanwhile
  if (!page) {
    location.assign(address);
    return;
  }
  stop();
  const held = document.activeElement?.id;
  document.getElementById("way").replaceWith(document.adoptNode(page.getElementById("way")));
  history.replaceState(null, "", address);
  if (held) document.getElementById(held)?.focus({ preventScroll: true });
  ready();
}

// in the plan's order: a flatfish's two drawings have some of the cuts each
function steps() {
  const order = [...document.querySelectorAll(".plan-steps li")].map((line) => line.dataset.step);
  const at = (step) => order.indexOf(step.dataset.step);
  return [...document.querySelectorAll(".of-step")].sort((a, b) => at(a) - at(b));
}
// a drawing's parts have no hidden property of their own
const shownAt = () => steps().findIndex((step) => !step.hasAttribute("hidden"));

function show(at) {
  const all = steps();
  const step = all[at];
  for (const one of all) one.toggleAttribute("hidden", one !== step);
  // a flatfish has two drawings: the side that this cut is made on comes up
  for (const side of document.querySelectorAll("[data-fish]")) {
    side.toggleAttribute("hidden", Boolean(step) && !side.contains(step));
  }
  for (const line of document.querySelectorAll(".plan-steps li")) {
    line.classList.toggle("now", line.dataset.step === step?.dataset.step);
  }
  document.querySelector("[data-play-title]").textContent = step?.dataset.title || "";
}

function stop() {
  clearTimeout(playing);
  playing = 0;
  const button = document.querySelector("[data-play=all]");
  if (button) button.textContent = "Play the cuts";
}

function play(at) {
  if (at >= steps().length) {
    stop();
    return;
  }
  show(at);
  playing = setTimeout(() => play(at + 1), STILL.matches ? PLAY_MS * 1.5 : PLAY_MS);
}

const PLAYS = {
  on: () => show(Math.min(shownAt() + 1, steps().length - 1)),
  back: () => show(Math.max(shownAt() - 1, 0)),
  all: (button) => {
    button.textContent = "Stop";
    play(0);
  },
};

function press(button) {
  const wasPlaying = playing;
  stop();
  if (!(wasPlaying && button.dataset.play === "all")) PLAYS[button.dataset.play](button);
}

// While it is dragged only the drawing and the number follow; the plan is asked for when it is let go.
function drag(range) {
  document.querySelector("[data-length]").textContent = `${range.value} ${range.dataset.unit}`;
  const share = Math.max(0.35, Math.min(1, Number(range.value) / Number(range.max)));
  for (const side of document.querySelectorAll("[data-fish]")) {
    side.setAttribute("width", `${Math.round(share * 100)}%`);
  }
}

function ready() {
  const player = document.querySelector("[data-player]");
  player.removeAttribute("x-cloak");
  player.hidden = steps().length === 0;
}

document.addEventListener("click", (event) => {
  const link = event.target.closest("a[data-swap]");
  const shown = event.target.closest("a[data-show]");
  const button = event.target.closest("[data-play]");
  if (button) press(button);
  if (link && !event.ctrlKey && !event.metaKey) {
    event.preventDefault();
    swap(link.href);
  }
  const at = shown ? steps().findIndex((s) => s.dataset.step === shown.closest("li").dataset.step) : -1;
  if (at >= 0) {
    event.preventDefault();
    stop();
    show(at);
    document.getElementById("drawing").scrollIntoView({ behavior: STILL.matches ? "auto" : "smooth" });
  }
});

document.addEventListener("input", (event) => {
  if (event.target.matches("#length[type=range]")) drag(event.target);
});
document.addEventListener("change", (event) => {
  if (!event.target.matches("#length[type=range]")) return;
  const form = new FormData(event.target.form);
  swap(`?${new URLSearchParams(form)}`);
});

ready();
