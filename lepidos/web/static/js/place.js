// After units or colours were switched the page is where it was: scrolled there, the same door open.
const KEPT = "lepidos.place";
const scrollers = () => [document.scrollingElement, ...document.querySelectorAll(".main, .panel")];

document.addEventListener("submit", ({ target }) => {
  if (!target.matches("form[action='/units'], form[action='/theme']")) return;
  const tops = scrollers().map((one) => one.scrollTop);
  sessionStorage.setItem(KEPT, JSON.stringify({ at: location.pathname, tops, door: document.body.dataset.door }));
});

// once every script of the page listens
document.addEventListener("DOMContentLoaded", () => {
  const kept = JSON.parse(sessionStorage.getItem(KEPT) || "null");
  sessionStorage.removeItem(KEPT);
  if (kept?.at !== location.pathname) return;
  if (kept.door) document.querySelector(`[data-doors] [data-door="${CSS.escape(kept.door)}"]`)?.click();
  scrollers().forEach((one, n) => { one.scrollTop = kept.tops[n] || 0; });
});
