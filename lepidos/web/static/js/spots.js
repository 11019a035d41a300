// While "Cut something out" is open, a touch on the drawing says where: a ring stands there, its piece is chosen.
const UNIT = 1000; // drawing units to a fish's total length
const SVG = "http://www.w3.org/2000/svg";
const form = () => document.getElementById("d-spot");

/** Whether a touch on the drawing marks a spot now. */
export const marking = () => Boolean(form()?.open);

// The touch in drawing units, as the fish is seen.
function touched(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

function ring(svg, at) {
  svg.querySelector(".spot-new")?.remove();
  const circle = document.createElementNS(SVG, "circle");
  circle.setAttribute("class", "spot-new");
  circle.setAttribute("cx", at.x);
  circle.setAttribute("cy", at.y);
  circle.setAttribute("r", 24);
  svg.append(circle);
}

function clear() {
  document.querySelector(".spot-new")?.remove();
  const spot = form().querySelector("form");
  for (const name of ["x", "y", "lost"]) spot.elements[name].value = "";
  spot.elements.slot.value = "";
}

document.addEventListener("click", (event) => {
  const svg = event.target.closest(".bench-drawing");
  if (!svg || !marking()) return;
  const at = touched(svg, event);
  const spot = form().querySelector("form");
  ring(svg, at);
  spot.elements.x.value = ((form().hasAttribute("data-flip") ? UNIT - at.x : at.x) / UNIT).toFixed(4);
  spot.elements.y.value = (-at.y / UNIT).toFixed(4);
  // a caption may lie over the zone; beside all zones the server takes the nearest
  const zone = document.elementsFromPoint(event.clientX, event.clientY).find((part) => part.dataset.zone);
  spot.elements.slot.value = zone?.dataset.zone || "";
});

// another piece chosen by hand is not where the touch was
document.addEventListener("change", (event) => {
  if (event.target.id !== "spot-slot") return;
  const { x, y } = event.target.form.elements;
  x.value = y.value = "";
  document.querySelector(".spot-new")?.remove();
});

form()?.addEventListener("toggle", () => {
  document.body.classList.toggle("marking", marking());
  if (!marking()) clear();
  else if (!document.body.dataset.door) document.getElementById("bench-picture").scrollIntoView({ block: "start" });
});
