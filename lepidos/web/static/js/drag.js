// Something is pulled from one place to another: by mouse at once, by a finger that stays a moment.
import { setDragging } from "./live.js";

const HOLD_MS = 300; // a touch opens or takes in hand and a pull scrolls; a longer hold takes it along
const SLACK_PX = 8;
const EDGE_PX = 70; // near the window's edge the page comes along
const STEP_PX = 18;

/**
 * Let things be dragged. `source(event)`: what is taken by this pointer, or null. `target(element, source)`: what would
 * take it at this element, or null. `began(source)` and `ended()` mark what may take it; `dropped(source, target)`.
 */
export function letDrag({ source, target, began = () => {}, ended = () => {}, dropped }) {
  let held = null;

  function begin() {
    held.dragged = true;
    setDragging(true);
    held.ghost = (held.source.querySelector("svg") || held.source).cloneNode(true);
    held.ghost.classList.add("drag-ghost");
    document.body.append(held.ghost);
    document.body.classList.add("dragging-bag");
    began(held.source);
    follow(held.x, held.y);
  }

  function follow(x, y) {
    if (y < EDGE_PX) scrollBy(0, -STEP_PX);
    else if (y > innerHeight - EDGE_PX) scrollBy(0, STEP_PX);
    held.ghost.style.transform = `translate(${x + 12}px, ${y + 12}px)`;
    const over = document.elementFromPoint(x, y);
    held.over?.classList.remove("drop-here");
    held.over = over ? target(over, held.source) : null;
    held.over?.classList.add("drop-here");
  }

  function letGo() {
    clearTimeout(held.timer);
    held.ghost?.remove();
    held.over?.classList.remove("drop-here");
    document.body.classList.remove("dragging-bag");
    ended();
    setDragging(false);
    held = null;
  }

  function drop() {
    const { source: taken, over } = held;
    // the click that may follow would open or tick what was let go
    const swallow = (event) => event.preventDefault();
    addEventListener("click", swallow, { capture: true });
    setTimeout(() => removeEventListener("click", swallow, { capture: true }), 60);
    if (over) dropped(taken, over); // while the marks of what may take it are there
    letGo();
  }

  document.addEventListener("pointerdown", (event) => {
    const taken = event.isPrimary && event.button === 0 && source(event);
    if (!taken) return;
    held = { source: taken, x: event.clientX, y: event.clientY, mouse: event.pointerType === "mouse" };
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
    if (held?.dragged) drop();
    else if (held) letGo();
  });
  document.addEventListener("pointercancel", () => held && letGo());
  document.addEventListener("keydown", (event) => event.key === "Escape" && held && letGo());
  document.addEventListener("touchmove", (event) => held?.dragged && event.preventDefault(), { passive: false });
  for (const browsers of ["dragstart", "contextmenu"]) {
    document.addEventListener(browsers, (event) => held && event.preventDefault());
  }
}
