// The clocks of fish at a board, which run on between two looks at the server.
const minutesAndSeconds = (seconds) => `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;

export function tickClocks() {
  for (const clock of document.querySelectorAll("[data-running]")) {
    const seconds = Number(clock.dataset.worked) + 1;
    clock.dataset.worked = seconds;
    clock.textContent = minutesAndSeconds(seconds);
  }
}
