// What is on or off at a bench: one tray, big numbers, sound, voice, and whether there is a scale.
import { isWithoutScale, rememberScale } from "./by_eye.js";
import { cue, soundIsOn, turnSound } from "./cues.js";
import { sayAloud, stepWords, turnVoice, voiceIsOn, whenVoices } from "./voice.js";

const onOrOff = (name) => sessionStorage.getItem(name) === "on";
const remember = (name, on) => sessionStorage.setItem(name, on ? "on" : "off");

/** The bench's switches; the bench they are spread into has `point`, which looks again at what is due. */
export function switches() {
  return {
    tray: false, big: false, sound: true, trayText: "false", bigText: "false", soundText: "true",
    voice: true, voiceText: "true", hasVoice: false, eye: false, eyeText: "false",

    readSwitches() {
      this.tray = onOrOff("lepidos.tray");
      this.big = onOrOff("lepidos.big");
      this.sound = soundIsOn();
      this.voice = voiceIsOn();
      this.eye = isWithoutScale();
      this.paint();
      whenVoices((has) => { this.hasVoice = has; });
    },
    paint() {
      document.body.classList.toggle("big", this.big);
      this.trayText = String(this.tray);
      this.bigText = String(this.big);
      this.soundText = String(this.sound);
      this.voiceText = String(this.voice);
      this.eyeText = String(this.eye);
    },
    turnScale() {
      this.eye = !this.eye;
      rememberScale(this.eye);
      this.paint();
      this.point();
    },
    turnTray() {
      this.tray = !this.tray;
      remember("lepidos.tray", this.tray);
      this.paint();
    },
    turnBig() {
      this.big = !this.big;
      remember("lepidos.big", this.big);
      this.paint();
    },
    turnSound() {
      this.sound = !this.sound;
      turnSound(this.sound);
      this.paint();
      if (this.sound) cue("taken");
    },
    turnVoice() {
      this.voice = !this.voice;
      turnVoice(this.voice);
      this.paint();
      if (this.voice) sayAloud(stepWords() || "Voice on", true);
    },
  };
}
