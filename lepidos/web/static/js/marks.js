// Marks on a fillet are dragged, or moved with the arrow keys; the grams beside them follow the profile.
const svg = document.querySelector(".fillet-drawing[data-shares]");
const form = document.querySelector(".marks-form");
const IN_CM = 2.54;
const OZ_G = 28.349523125;
const MIN_CM = 0.2;

if (svg && form) {
  const shares = svg.dataset.shares.split(" ").map(Number);
  const length = Number(svg.dataset.length);
  const kg = Number(svg.dataset.kg);
  const grips = [...svg.querySelectorAll(".mark-grip[role=slider]")];
  const weights = [...svg.querySelectorAll("text.kg")];
  const imperial = document.documentElement.dataset.units === "imperial";

  /** The share of the weight before a place, between the hundredths that the page gave. */
  function before(cm) {
    const at = Math.min(100, Math.max(0, (cm / length) * 100));
    const low = Math.min(99, Math.floor(at));
    return shares[low] + (shares[low + 1] - shares[low]) * (at - low);
  }

  function massText(grams) {
    if (imperial) {
      const oz = grams / OZ_G;
      return oz < 16 ? `${oz.toFixed(1)} oz` : `${Math.floor(oz / 16)} lb ${(oz % 16).toFixed(1)} oz`;
    }
    return grams < 1000 ? `${Math.round(grams)} g` : `${(grams / 1000).toFixed(2)} kg`;
  }

  const lengthText = (cm) => (imperial ? `${(cm / IN_CM).toFixed(1)} in` : `${cm.toFixed(1)} cm`);
  const places = () => grips.map((grip) => Number(grip.dataset.at));

  function show() {
    const edges = [0, ...places(), length];
    weights.forEach((text, n) => {
      const middle = (edges[n] + edges[n + 1]) / 2;
      text.textContent = massText((before(edges[n + 1]) - before(edges[n])) * kg * 1000);
      text.setAttribute("x", middle);
      text.nextElementSibling?.setAttribute("x", middle);
    });
    form.elements.cuts.value = places().map((cm) => (cm / 100).toFixed(4)).join(" ");
    form.querySelector(".dragged").hidden = false;
  }

  function move(grip, cm) {
    const n = grips.indexOf(grip);
    const all = places();
    const at = Math.min((all[n + 1] ?? length) - MIN_CM, Math.max((all[n - 1] ?? 0) + MIN_CM, cm));
    grip.dataset.at = at.toFixed(3);
    grip.setAttribute("aria-valuenow", at.toFixed(1));
    grip.setAttribute("aria-valuetext", lengthText(at));
    grip.querySelector(".hold").setAttribute("x", at - 1.5);
    for (const end of ["x1", "x2"]) grip.querySelector(".mark").setAttribute(end, at);
    const text = grip.querySelector(".at");
    text.setAttribute("x", at);
    text.textContent = lengthText(at);
    show();
  }

  function cmOf(event) {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return point.x;
  }

  for (const grip of grips) {
    grip.addEventListener("pointerdown", (event) => {
      grip.setPointerCapture(event.pointerId);
      event.preventDefault();
      grip.focus();
    });
    grip.addEventListener("pointermove", (event) => {
      if (grip.hasPointerCapture(event.pointerId)) move(grip, cmOf(event));
    });
    grip.addEventListener("keydown", (event) => {
      const step = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[event.key];
      if (!step) return;
      event.preventDefault();
      move(grip, Number(grip.dataset.at) + step * (event.shiftKey ? 1 : 0.1));
    });
  }
}
