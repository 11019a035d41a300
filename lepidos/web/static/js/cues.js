// What the hand cannot see it hears or feels: taken, asked, refused. Only after a touch, as browsers ask.
const KEY = "lepidos.sound";
// hertz, seconds until it starts, seconds it lasts
const TONES = { taken: [[880, 0, 0.09]], asked: [[440, 0, 0.12], [330, 0.16, 0.18]], refused: [[180, 0, 0.3]] };
const BUZZ_MS = { taken: 40, asked: [60, 60, 60], refused: [200] };
let context = null;

function tone([hertz, after, long]) {
  const from = context.currentTime + after;
  const voice = context.createOscillator();
  const level = context.createGain();
  voice.frequency.value = hertz;
  level.gain.setValueAtTime(0.25, from);
  level.gain.exponentialRampToValueAtTime(0.001, from + long);
  voice.connect(level).connect(context.destination);
  voice.start(from);
  voice.stop(from + long);
}

export const soundIsOn = () => localStorage.getItem(KEY) !== "off";

export function turnSound(on) {
  localStorage.setItem(KEY, on ? "on" : "off");
}

export function cue(what) {
  if (navigator.userActivation && !navigator.userActivation.hasBeenActive) return; // a page that only opened
  navigator.vibrate?.(BUZZ_MS[what]);
  if (!soundIsOn()) return;
  context ||= new AudioContext();
  context.resume().then(() => TONES[what].forEach(tone)).catch(() => {});
}

/** A propped phone stays lit while the page is open, where the browser allows it. */
export function stayLit() {
  const ask = () => {
    if (!document.hidden) navigator.wakeLock?.request("screen").catch(() => {});
  };
  document.addEventListener("visibilitychange", ask);
  ask();
}
