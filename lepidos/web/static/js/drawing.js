// The bench's drawing: near to the present step on a small screen, one touch for all of it; captions keep their size.
import { small } from "./small.js";
import { measure } from "./svg_text.js";

const WHOLE = "lepidos.whole"; // this device rather sees the whole fish
const drawing = () => document.querySelector(".bench-drawing");
const knob = () => document.getElementById("b-near");

const wantsWhole = () => !small.matches || sessionStorage.getItem(WHOLE) === "on";

// Half of a caption at the edge would say nothing.
function fitCaptions(svg) {
  const unit = measure(svg);
  const [left, top, width, height] = svg.getAttribute("viewBox").split(" ").map(Number);
  const box = svg.getBoundingClientRect();
  const [middle, centre] = [left + width / 2, top + height / 2];
  const [wide, tall] = [(box.width * unit) / 2, (box.height * unit) / 2];
  for (const caption of svg.querySelectorAll(".caption")) {
    const half = caption.getComputedTextLength() / 2;
    const away = Math.abs(caption.getAttribute("x") - middle) + half > wide;
    caption.classList.toggle("away", away || Math.abs(caption.getAttribute("y") - centre) > tall);
  }
}

export function showDrawing() {
  const svg = drawing();
  if (!svg) return;
  const whole = wantsWhole() || document.body.dataset.door === "seen";
  svg.setAttribute("viewBox", whole ? svg.dataset.whole : svg.dataset.near);
  fitCaptions(svg);
  const button = knob();
  button.hidden = !small.matches || svg.dataset.near === svg.dataset.whole;
  button.textContent = whole ? "Close up" : "Whole fish";
}

document.addEventListener("click", (event) => {
  if (!event.target.closest("#b-near")) return;
  sessionStorage.setItem(WHOLE, wantsWhole() ? "off" : "on");
  showDrawing();
});
document.addEventListener("lepidos:fresh", showDrawing);
document.addEventListener("lepidos:door", showDrawing);
small.addEventListener("change", showDrawing);
if (drawing()) new ResizeObserver(showDrawing).observe(document.querySelector(".frame.at-bench"));
showDrawing();
