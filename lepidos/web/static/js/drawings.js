// Drawings of a long page are fetched as they come into view: a phone does not load 137 fish to find one.
import { getJson } from "./api.js";
import { partsOf } from "./svg_parts.js";

const GATHER_MS = 60;
const RETRY_MS = 3000;
const MAX = 40;
const BEFORE = "400px"; // a little before they are seen
let wanted = new Map();
let soon = 0;

async function load() {
  soon = 0;
  const now = [...wanted].slice(0, MAX);
  wanted = new Map([...wanted].slice(MAX));
  const found = await getJson(`/live/drawings?fish=${now.map(([key]) => encodeURIComponent(key)).join(",")}`, {});
  for (const [key, svg] of now) {
    if (found[key]) svg.replaceChildren(...partsOf(found[key]));
    else setTimeout(() => watch.observe(svg), RETRY_MS); // nobody answered
  }
  if (wanted.size) load();
}

const watch = new IntersectionObserver((entries) => {
  for (const { target, isIntersecting } of entries) {
    if (!isIntersecting) continue;
    watch.unobserve(target);
    wanted.set(target.dataset.drawing, target);
  }
  if (wanted.size) soon ||= setTimeout(load, GATHER_MS);
}, { rootMargin: BEFORE });

for (const svg of document.querySelectorAll("[data-drawing]")) watch.observe(svg);
