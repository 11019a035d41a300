// Words in a drawing keep their size on the screen however large the drawing is: --unit is drawing units to a pixel.
export const WRITTEN = "svg.fillet-drawing, svg.bench-drawing";

export function measure(svg) {
  const [, , width, height] = svg.getAttribute("viewBox").split(" ").map(Number);
  const box = svg.getBoundingClientRect();
  if (!box.width) return 0;
  const unit = Math.max(width / box.width, height / box.height);
  svg.style.setProperty("--unit", unit.toFixed(4));
  return unit;
}

const measureAll = () => document.querySelectorAll(WRITTEN).forEach(measure);

document.addEventListener("lepidos:fresh", measureAll);
window.addEventListener("resize", measureAll);
document.addEventListener("toggle", measureAll, true);
measureAll();
