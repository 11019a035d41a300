// What is marked data-live is fetched again when the server says that something changed.
import { fetchRegions } from "./api.js";

const EVERY_MS = 60_000; // clocks and cores move without anyone writing
const GATHER_MS = 350; // others' changes are gathered: four busy benches would fetch pages all the time
const RETRY_MS = 2000;
const REFUSED_MS = 5000;
const RELEASE_MS = 50;
const HEADER = ["gauges", "rail", "notices"];

let pressed = null;
let dragging = false;
let soon = 0;
let mark = document.body.dataset.mark;
let marks = {};
let source = null;
let busy = false;
let pending = false;

/** While a row is dragged nothing of the page is replaced. */
export function setDragging(on) {
  dragging = on;
}

// What a finger is on, a field that is being filled in, and one that stands with what is wrong in it are left alone: a
// button that is changed between press and release is not pressed at all. One that only had the focus gets it back.
function inUse(region) {
  if (dragging || (pressed && region.contains(pressed)) || region.querySelector(".field-problem")) return true;
  return region.contains(document.activeElement) && document.activeElement.matches("input, textarea, select");
}

// A tick or a number that was not sent yet is where it was.
function keepWhatWasFilledIn(old, next) {
  for (const before of old.querySelectorAll("input[id]:not([type=hidden])")) {
    const after = next.querySelector(`#${CSS.escape(before.id)}`);
    if (!after) continue;
    if (before.checked !== before.defaultChecked) after.checked = before.checked;
    if (before.matches("input:not([type=checkbox], [type=radio])") && before.value !== before.defaultValue) {
      after.value = before.value;
    }
  }
}

function replaceOne(old, next) {
  for (const before of old.querySelectorAll("details[id]")) {
    next.querySelector(`#${CSS.escape(before.id)}`)?.toggleAttribute("open", before.open);
  }
  keepWhatWasFilledIn(old, next);
  const held = old.contains(document.activeElement) ? document.activeElement.id : "";
  old.replaceWith(document.adoptNode(next));
  if (held) document.getElementById(held)?.focus({ preventScroll: true });
}

function replace(regions, asked) {
  pending = false;
  for (const [id, text] of Object.entries(regions)) {
    const old = document.getElementById(id);
    const next = new DOMParser().parseFromString(text, "text/html").body.firstElementChild;
    if (!old || !next) continue;
    if (inUse(old)) {
      pending = true;
      delete marks[id];
    } else replaceOne(old, next);
  }
  document.dispatchEvent(new CustomEvent("lepidos:fresh", { detail: { asked } }));
}

// A page on which nothing but the header changes asks for the header alone: a guide is long.
function address() {
  const here = new URL(location.href);
  here.searchParams.delete("done");
  here.searchParams.delete("printer");
  const regions = [...document.querySelectorAll("[data-live][id]")];
  if (regions.some((region) => !HEADER.includes(region.id))) return here;
  return `/live/header?${new URLSearchParams({ here: document.body.dataset.here, path: here.pathname })}`;
}

/** Fetch what changed and put it in its place; called again while busy, it fetches once more afterwards. */
export async function refresh() {
  if (busy) {
    pending = true;
    return;
  }
  busy = true;
  const asked = performance.now(); // what arrived at the server later is not on this page yet
  const fresh = await fetchRegions(address(), marks);
  busy = false;
  if (!fresh) {
    setTimeout(refresh, RETRY_MS); // or the page would stay as it was until someone writes again
    return;
  }
  mark = fresh.mark;
  marks = fresh.marks;
  const again = pending;
  replace(fresh.regions, asked);
  if (again) refresh();
}

const refreshIfPending = () => {
  if (pending) refresh();
};

function refreshSoon() {
  soon ||= setTimeout(() => {
    soon = 0;
    refresh();
  }, GATHER_MS);
}

function listen() {
  if (document.hidden || source) return;
  source = new EventSource("/live/changes");
  source.onmessage = (event) => {
    if (event.data !== mark) refreshSoon();
  };
  source.onerror = () => {
    // a browser asks again by itself, but not when the app itself said no: too many pages open, say
    if (source?.readyState !== EventSource.CLOSED) return;
    rest();
    setTimeout(listen, REFUSED_MS);
  };
}

// a browser keeps few connections to one place: a page that nobody sees gives its own back
function rest() {
  source?.close();
  source = null;
}

function release() {
  setTimeout(() => {
    pressed = null;
    refreshIfPending();
  }, RELEASE_MS);
}

if (document.querySelector("[data-live]")) {
  document.addEventListener("visibilitychange", () => (document.hidden ? rest() : listen()));
  window.addEventListener("pagehide", rest);
  window.addEventListener("pageshow", listen);
  document.addEventListener("pointerdown", (event) => { pressed = event.target; }, true);
  document.addEventListener("pointerup", release, true);
  document.addEventListener("pointercancel", release, true);
  document.addEventListener("focusout", () => setTimeout(refreshIfPending, 0));
  setInterval(() => { if (!document.hidden) refresh(); }, EVERY_MS);
  listen();
}
