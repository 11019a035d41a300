// The end of a fish: finished at once when pieces were weighed, else asked what was taken of it.
import { openDoor } from "./doors.js";

/** Which of the two a bench offers: with a weighing on its way nothing needs to be asked. */
export function offerFinish(isWeighed) {
  const finish = document.querySelector("[data-once-taken]");
  const ask = document.querySelector("[data-until-taken]");
  if (finish) finish.hidden = !isWeighed;
  if (ask) ask.hidden = isWeighed;
}

/** Return, and no piece is due: which of them is it? The drawing and the list of pieces both take it. */
export function askWhich(typed) {
  if (!typed) return "Type what it weighs, or touch its piece.";
  const asked = `Which piece weighs ${typed}? Touch it.`;
  openDoor("pieces");
  // on a phone the list lies over what is said
  document.querySelector("#bench-pieces > .hush").textContent = asked;
  document.querySelector("#bench-pieces button[name=slot]:not(.default)")?.focus();
  return asked;
}

document.addEventListener("click", (event) => {
  const away = event.target.closest("[data-not-yet]");
  if (away) away.closest("details").open = false;
});
