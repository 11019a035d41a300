// A fish dragged on the slab is put before or after the one it was dropped beside.
import { refresh, setDragging } from "./live.js";

const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
const form = document.getElementById("reorder");

function dropped({ item, from, to, oldIndex, newIndex }) {
  setDragging(false);
  const next = item.nextElementSibling;
  const beside = next || item.previousElementSibling;
  if (!beside || (from === to && oldIndex === newIndex)) {
    refresh();
    return;
  }
  form.action = `/fish/${item.dataset.fish}/place`;
  form.elements.neighbour.value = beside.dataset.fish;
  form.elements.side.value = next ? "before" : "after";
  form.submit();
}

function bind() {
  for (const list of document.querySelectorAll("[data-reorder]")) {
    if (window.Sortable.get(list)) continue;
    window.Sortable.create(list, {
      group: "slab", draggable: "li", animation: still ? 0 : 150,
      // a touch opens and a pull scrolls; a longer hold takes the fish
      delay: 250, delayOnTouchOnly: true, forceFallback: true, fallbackTolerance: 6,
      onStart: () => setDragging(true), onEnd: dropped,
    });
  }
}

// The library comes when the slab is turned to: a phone that lands fish does not wait for it.
let coming = null;
function load() {
  const script = document.createElement("script");
  script.src = document.querySelector("[data-sortable]").dataset.sortable;
  coming ||= new Promise((done) => {
    script.onload = done;
    document.head.append(script);
  }).then(bind);
}

if (matchMedia("(pointer: fine)").matches) load(); // a mouse drags at once
document.addEventListener("lepidos:fresh", () => coming?.then(bind));
document.addEventListener("lepidos:door", load);
for (const turnedTo of ["pointerover", "focusin"]) {
  document.querySelector(".slab-face").addEventListener(turnedTo, load, { once: true });
}
