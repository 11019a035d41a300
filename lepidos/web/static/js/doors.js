// Doors of deck and bench on a small screen: what is not needed with every fish. One is open at a time; it closes by
// the same touch, by Escape, and by itself once something in it was done.
const PART = { plan: ".plan", scale: ".scale-and-gloves", slab: ".slab-face" };
const here = () => document.body.dataset.door || "";
const button = (door) => document.querySelector(`[data-door="${CSS.escape(door)}"]:not(body)`);

function set(door) {
  const before = here();
  if (door) document.body.dataset.door = door;
  else delete document.body.dataset.door;
  for (const one of document.querySelectorAll("[data-doors] [data-door]")) {
    one.setAttribute("aria-expanded", String(one.dataset.door === door));
  }
  // what was open for a touch on the drawing is shut with its door
  const spot = document.getElementById("d-spot");
  if (before === "seen" && spot) spot.open = false;
  document.dispatchEvent(new CustomEvent("lepidos:door"));
  if (!door) return;
  const shown = document.querySelector(PART[door] || ".at-bench .main");
  shown.scrollTop = 0;
  shown.querySelector(".steps .now")?.scrollIntoView({ block: "center" });
}

/** Closes the open door; the focus goes to its button when it stood inside. */
export function closeDoor() {
  const door = here();
  if (!door) return;
  const held = document.activeElement.closest(`[data-part="${CSS.escape(door)}"]`);
  set("");
  if (held) button(door)?.focus({ preventScroll: true });
}

export function openDoor(door) {
  if (getComputedStyle(document.querySelector("[data-doors]")).display !== "none") set(door);
}

document.addEventListener("click", (event) => {
  const touched = event.target.closest("[data-doors] [data-door]");
  if (!touched) return;
  set(here() === touched.dataset.door ? "" : touched.dataset.door);
});
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape") closeDoor();
});
