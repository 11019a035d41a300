// What the hand cannot see it hears or feels: taken, asked, refused. Only after a touch, as browsers ask.
"use strict";
(() => {
  const KEY = "lepidos.sound", TONES = { taken: [[880, 0, 0.09]], asked: [[440, 0, 0.12], [330, 0.16, 0.18]], refused: [[180, 0, 0.3]] };
  const BUZZ = { taken: 40, asked: [60, 60, 60], refused: [200] };
  let context = null;
  const tone = ([hertz, after, long]) => {
    const from = context.currentTime + after, voice = context.createOscillator(), level = context.createGain();
    voice.frequency.value = hertz;
    level.gain.setValueAtTime(0.25, from);
    level.gain.exponentialRampToValueAtTime(0.001, from + long);
    voice.connect(level).connect(context.destination);
    voice.start(from);
    voice.stop(from + long);
  };
  window.lepidos.cue = (what) => {
    if (navigator.userActivation && !navigator.userActivation.hasBeenActive) return; // a page that only opened
    navigator.vibrate?.(BUZZ[what]);
    if (!window.lepidos.sound()) return;
    context ||= new AudioContext();
    context.resume().then(() => TONES[what].forEach(tone)).catch(() => {});
  };
  window.lepidos.sound = (on) => {
    if (on !== undefined) localStorage.setItem(KEY, on ? "on" : "off");
    return localStorage.getItem(KEY) !== "off";
  };
  // a propped phone stays lit while the bench is open, where the browser allows it
  const stayLit = () => { if (!document.hidden) navigator.wakeLock?.request("screen").catch(() => {}); };
  document.addEventListener("visibilitychange", stayLit);
  stayLit();
})();
