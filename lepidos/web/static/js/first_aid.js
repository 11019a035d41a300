// First aid is on every page: it opens without the server. The hot water clock runs on through other pages.
const KEY = "lepidos.hot_water";
const MINUTE_MS = 60_000;

const startedAt = () => Number(localStorage.getItem(KEY)) || 0;
const twoDigits = (number) => String(number).padStart(2, "0");

function clockText(ms) {
  const seconds = Math.floor(ms / 1000);
  return `${Math.floor(seconds / 60)}:${twoDigits(seconds % 60)}`;
}

function noteText(minutes, { least, most }) {
  if (minutes < Number(least)) return `at least ${least} minutes; add hot water, test it on unhurt skin`;
  if (minutes < Number(most)) return "stop when the pain has gone; see a doctor all the same";
  return `${most} minutes are over: take it out, wash it, see a doctor`;
}

function paint() {
  const since = startedAt();
  const ms = Date.now() - since;
  const left = since ? ` ${clockText(ms)}` : "";
  for (const place of document.querySelectorAll("[data-hot-water-left]")) place.textContent = left;
  for (const button of document.querySelectorAll("[data-hot-water]")) {
    const note = button.parentElement.querySelector("[data-hot-water-note]");
    button.textContent = since ? `In hot water ${clockText(ms)}: stop the clock` : "Start the hot water clock";
    const { least, most } = button.dataset;
    note.textContent = since ? noteText(ms / MINUTE_MS, button.dataset) : `${least} to ${most} minutes`;
  }
}

document.addEventListener("click", (event) => {
  const door = event.target.closest("[data-aid-open]");
  if (door) {
    event.preventDefault();
    document.querySelector("dialog.first-aid").showModal();
  }
  if (event.target.closest("[data-hot-water]")) {
    if (startedAt()) localStorage.removeItem(KEY);
    else localStorage.setItem(KEY, String(Date.now()));
    paint();
  }
});

paint();
setInterval(paint, 1000);
