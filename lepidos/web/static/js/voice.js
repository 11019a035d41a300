// The step, the piece and the weight read aloud by the browser's own voice, where it has one.
const KEY = "lepidos.voice";

export const voiceIsOn = () => localStorage.getItem(KEY) !== "off";

/** Calls `tell` with whether the browser has a voice, now and when its voices have been loaded. */
export function whenVoices(tell) {
  const voices = window.speechSynthesis;
  if (!voices) {
    tell(false);
    return;
  }
  const look = () => tell(voices.getVoices().length > 0);
  voices.addEventListener?.("voiceschanged", look);
  look();
}

export function turnVoice(on) {
  localStorage.setItem(KEY, on ? "on" : "off");
  if (!on) window.speechSynthesis?.cancel();
}

/** Says it after what is being said; with `now` instead of it. Never before the first touch. */
export function sayAloud(text, now = false) {
  const voices = window.speechSynthesis;
  if (!voices || !voiceIsOn() || !voices.getVoices().length) return;
  if (navigator.userActivation && !navigator.userActivation.hasBeenActive) return;
  if (now) voices.cancel();
  const said = new SpeechSynthesisUtterance(text.replace(/\s+/g, " ").trim());
  said.lang = document.documentElement.lang;
  voices.speak(said);
}

/** The present step's title and reason. */
export function stepWords() {
  const step = document.querySelector("#bench-now .now-step");
  return ["h2", "h2 + p"].map((part) => step?.querySelector(part)?.firstChild?.textContent.trim() || "").join(". ");
}

let step = stepWords();
document.addEventListener("lepidos:fresh", () => {
  const next = stepWords();
  if (next !== step) sayAloud(next);
  step = next;
});
