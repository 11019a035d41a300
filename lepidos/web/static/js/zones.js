// A touch on the drawing is a touch on a piece: one that is due is taken, one that is done shows its weighings.
// A glove is wider than a cheek: what is smaller on the screen than a fingertip counts as wide as one, nearest first.
import { openDoor } from "./doors.js";
import { marking } from "./spots.js";

const FINGER_PX = 48;
const ECHO_MS = 1500;
let fading = 0;

const gap = (at, from, to) => Math.max(from - at, 0, at - to);

// How far a touch is from a zone's box, in pixels; 0 within, a small box grown to a fingertip.
function distance(box, x, y) {
  const wide = Math.max(0, FINGER_PX - box.width) / 2;
  const tall = Math.max(0, FINGER_PX - box.height) / 2;
  return Math.hypot(gap(x, box.left - wide, box.right + wide), gap(y, box.top - tall, box.bottom + tall));
}

const middle = (box, x, y) => Math.hypot(box.left + box.width / 2 - x, box.top + box.height / 2 - y);

/** The zone that a touch means, or null. */
export function meant(svg, x, y) {
  const zones = [...svg.querySelectorAll("[data-zone]")].map((zone) => ({ zone, box: zone.getBoundingClientRect() }));
  const small = zones.filter(({ box }) => Math.min(box.width, box.height) < FINGER_PX && !distance(box, x, y));
  small.sort((a, b) => middle(a.box, x, y) - middle(b.box, x, y));
  if (small.length) return small[0].zone;
  const under = document.elementsFromPoint(x, y).find((part) => part.dataset.zone);
  if (under) return under;
  const near = zones.map(({ zone, box }) => ({ zone, far: distance(box, x, y) })).sort((a, b) => a.far - b.far);
  return near.length && near[0].far < FINGER_PX / 2 ? near[0].zone : null;
}

// Says which zone was meant.
function echo(zone) {
  const box = document.getElementById("zone-echo");
  clearTimeout(fading);
  for (const old of document.querySelectorAll(".zone.touched")) old.classList.remove("touched");
  zone.classList.add("touched");
  box.textContent = zone.dataset.name;
  box.hidden = false;
  fading = setTimeout(() => {
    zone.classList.remove("touched");
    box.hidden = true;
  }, ECHO_MS);
}

function use(zone) {
  echo(zone);
  if (zone.dataset.slot) {
    document.querySelector(`button[name=slot][value="${CSS.escape(zone.dataset.slot)}"]`)?.click();
    return;
  }
  const weighings = document.getElementById("d-weighings");
  if (!weighings) return;
  openDoor("went");
  weighings.open = true;
  weighings.scrollIntoView({ block: "nearest" });
}

document.addEventListener("click", (event) => {
  const svg = event.target.closest(".bench-drawing");
  if (!svg || marking()) return;
  // a screen reader presses a zone without saying where
  const pressed = event.detail === 0 && event.target.closest("[data-zone]");
  const zone = pressed || meant(svg, event.clientX, event.clientY);
  if (zone) use(zone);
});
document.addEventListener("keydown", (event) => {
  if (!["Enter", " "].includes(event.key) || !event.target.matches?.("[data-zone]")) return;
  event.preventDefault();
  event.stopPropagation();
  use(event.target);
});
