// A bag or a piece is dragged into another bag, to another party, or out into a bag of its own. It does what two
// touches do, in one pull.
import { newKey } from "./api.js";
import { setDragging } from "./live.js";

const HOLD_MS = 300; // a touch opens and a pull scrolls; a longer hold takes the piece
const SLACK_PX = 8;
const EDGE_PX = 70; // near the window's edge the page comes along
const STEP_PX = 18;
const form = document.getElementById("by-hand");
let held = null;

const kinOf = (element) => element.dataset.kin;
const bags = () => document.querySelectorAll(".columns [data-parts]");

function begin() {
  const { source, x, y } = held;
  held.dragged = true;
  setDragging(true);
  held.ghost = (source.querySelector("svg") || source).cloneNode(true);
  held.ghost.classList.add("drag-ghost");
  document.body.append(held.ghost);
  document.body.classList.add("dragging-bag");
  for (const bag of bags()) bag.classList.toggle("may-take", bag !== source && kinOf(bag) === kinOf(source));
  follow(x, y);
}

function follow(x, y) {
  if (y < EDGE_PX) scrollBy(0, -STEP_PX);
  else if (y > innerHeight - EDGE_PX) scrollBy(0, STEP_PX);
  held.ghost.style.transform = `translate(${x + 12}px, ${y + 12}px)`;
  const over = document.elementFromPoint(x, y);
  held.over?.classList.remove("drop-here");
  held.over = over?.closest(".may-take") || over?.closest("[data-party]") || null;
  held.over?.classList.add("drop-here");
}

// Where it goes: [address, field], or null where nothing would change.
function aim({ source, over }) {
  if (!over || over.contains(source) && source.matches(".columns *")) return null;
  if (over.matches(".may-take")) return ["lay", over.dataset.parts];
  if (over.dataset.party && over.dataset.party !== source.dataset.of) return ["give", over.dataset.party];
  return source.matches(".in-it *") && source.dataset.several ? ["lay", "own"] : null;
}

function letGo() {
  clearTimeout(held.timer);
  held.ghost?.remove();
  held.over?.classList.remove("drop-here");
  document.body.classList.remove("dragging-bag");
  for (const bag of bags()) bag.classList.remove("may-take");
  setDragging(false);
  const was = held;
  held = null;
  return was;
}

function drop() {
  const to = aim(held);
  const { source } = letGo();
  // the click that may follow would open the bag that was let go
  const swallow = (event) => event.preventDefault();
  addEventListener("click", swallow, { capture: true });
  setTimeout(() => removeEventListener("click", swallow, { capture: true }), 60);
  if (!to) return;
  form.action = form.dataset.to + to[0];
  form.elements.key.value = newKey();
  form.elements.to.value = to[1];
  for (const part of source.dataset.parts.split(" ")) {
    const field = document.createElement("input");
    Object.assign(field, { type: "hidden", name: "part", value: part });
    form.append(field);
  }
  form.requestSubmit();
}

document.addEventListener("pointerdown", (event) => {
  const source = event.target.closest("[data-parts]");
  if (!source || !event.isPrimary || event.button !== 0 || event.target.closest("button, .move")) return;
  held = { source, x: event.clientX, y: event.clientY, mouse: event.pointerType === "mouse" };
  if (!held.mouse) held.timer = setTimeout(() => held && begin(), HOLD_MS);
});

document.addEventListener("pointermove", (event) => {
  if (!held || !event.isPrimary) return;
  const far = Math.hypot(event.clientX - held.x, event.clientY - held.y) > SLACK_PX;
  if (held.dragged) follow(event.clientX, event.clientY);
  else if (far && held.mouse) begin();
  else if (far) letGo(); // it scrolls
});

document.addEventListener("pointerup", () => {
  if (!held) return;
  if (held.dragged) drop();
  else letGo();
});
document.addEventListener("pointercancel", () => held && letGo());
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && held) letGo();
});
document.addEventListener("touchmove", (event) => {
  if (held?.dragged) event.preventDefault();
}, { passive: false });
for (const browsers of ["dragstart", "contextmenu"]) {
  document.addEventListener(browsers, (event) => {
    if (held) event.preventDefault();
  });
}
