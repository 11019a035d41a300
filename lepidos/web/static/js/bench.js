// The bench with a knife in the other hand: take what the scale shows, keep it until the server has it.
import { tickClocks } from "./clocks.js";
import { cue, stayLit } from "./cues.js";
import { queue } from "./device_queue.js";
import { closeDoor } from "./doors.js";
import { askWhich, offerFinish } from "./finish.js";
import "./drawing.js";
import { refresh } from "./live.js";
import { addHidden, markField, sayIn, unmarkFields, waitingText } from "./said.js";
import { fieldsOf, more, takenAs } from "./by_eye.js";
import { display } from "./scale.js";
import { small } from "./small.js";
import "./spines.js";
import { showStep } from "./steps_ahead.js";
import { switches } from "./switches.js";
import { sayAloud } from "./voice.js";
import "./zones.js";

const SOON_MS = 800; // what has gone within the moment is not told
const AGAIN_MS = 600, HOLD_MS = 900, SAID_MS = 12_000; // one knock of a glove is one take

// A button's words as they are seen, without its key and what only a screen reader says.
function wordsOf(button) {
  if (!button) return "Done";
  const isSeen = (part) => !part.matches?.(".key, .visually-hidden") && part.getClientRects?.().length !== 0;
  return [...button.childNodes].filter(isSeen).map((part) => part.innerText ?? part.textContent).join("").trim();
}

function bench() {
  return {
    ...switches(),
    fish: "", group: "", queued: false, queuedText: "",
    holdText: "Hold to unlock", holding: 0, fading: 0,
    lastMark: "", lastAt: 0, lastForm: "", formAt: 0,
    taken: new Map(), // slot → when its weighing arrived, Infinity while it waits
    told: new Set(),

    init() {
      this.fish = this.$root.dataset.fish;
      this.group = `fish:${this.fish}`;
      this.readSwitches();
      for (const entry of queue.waiting(this.group)) if (entry.slot) this.taken.set(entry.slot, Infinity);
      document.addEventListener("lepidos:queue", () => this.count());
      document.addEventListener("lepidos:arrived", (e) => this.arrived(e.detail));
      document.addEventListener("lepidos:refused", () => this.refused());
      document.addEventListener("lepidos:fresh", (e) => this.fresh(e.detail.asked));
      document.addEventListener("lepidos:scale", (e) => { if (e.detail) this.say(e.detail, "refused"); });
      document.addEventListener("submit", (e) => {
        this.addDisplay(e);
        this.keep(e);
      });
      setInterval(tickClocks, 1000);
      stayLit();
      this.count();
      this.refused();
    },

    // Each touch of a measure is one more of it, in the field where weights are typed.
    looksLike(event) {
      this.$refs.typed.value = more(this.$refs.typed.value, event.target.dataset);
    },
    lock() { this.$refs.splash.showModal(); },
    unlock() {
      this.letGo();
      this.$refs.splash.close();
    },
    hold() {
      this.holdText = "Keep holding …";
      this.holding = setTimeout(() => this.unlock(), HOLD_MS);
    },
    letGo() {
      clearTimeout(this.holding);
      this.holdText = "Hold to unlock";
    },

    // What the display shows now; null with a reason said when it cannot be taken.
    readDisplay() {
      const reading = display();
      if (!reading || reading.off) return this.say(reading?.note || "The scale does not answer.", "refused");
      if (!reading.steady) return this.say("The scale is still moving.", "refused");
      if (reading.mark === this.lastMark) {
        return this.say("That load was taken already. Lift it off, then lay the next on.", "refused");
      }
      return reading;
    },

    // The weight goes to the piece whose button was pressed.
    send(event) {
      const slot = event.submitter?.value;
      event.preventDefault();
      if (!slot) {
        this.say(askWhich(this.$refs.typed.value.trim()), "");
        return;
      }
      event.stopPropagation();
      delete event.target.dataset.sent;
      // Enter in the field is the form's first button, which takes what the main one offers
      const shown = event.submitter.id === "b-default" ? document.getElementById("b-take") : event.submitter;
      const name = (shown.querySelector("[data-piece]") || shown).textContent.trim();
      const typed = this.$refs.typed.value.trim();
      // a weight typed since the last take is meant: a take empties the field
      if (!typed && Date.now() - this.lastAt < AGAIN_MS) return;
      const weight = this.known(typed);
      if (!weight) return;
      this.corrected((entry) => entry.slot === slot);
      const fields = [["slot", slot], ...weight.fields];
      if (!this.put(`/live/fish/${this.fish}/${weight.path}`, `${name} ${weight.said}`, fields, { slot })) return;
      unmarkFields(event.target);
      closeDoor();
      this.lastAt = Date.now();
      this.$refs.typed.value = "";
      // the next press of Space is the next piece, whichever button this one was
      if (document.activeElement === event.submitter) {
        document.getElementById("b-take")?.focus({ preventScroll: true });
      }
      cue("taken");
      sayAloud(`${name}, ${weight.said}`, true);
    },
    // How the weight of a piece is known: by eye, typed, or as the display shows it; null when it is not.
    known(typed) {
      if (this.eye && (!typed || fieldsOf(typed))) return { path: "taken", ...takenAs(typed) };
      const found = typed ? { said: typed, fields: [["weight", typed]] } : this.fromDisplay();
      return found && { path: "weighings", ...found };
    },
    fromDisplay() {
      const reading = this.readDisplay();
      if (!reading) return null;
      this.lastMark = reading.mark;
      const tray = this.tray ? "1" : "";
      const fields = [["shown_kg", String(reading.kg)], ["mark", reading.mark], ["in_tray", tray]];
      return { said: reading.shown, fields };
    },
    put(path, said, fields, about) {
      if (about.slot) this.taken.set(about.slot, Infinity);
      try {
        queue.add(path, this.group, said, fields, about);
      } catch {
        this.taken.delete(about.slot);
        this.say("The browser has no room left to keep this. Write it down.", "refused");
        return false;
      }
      return true;
    },

    // The page's other forms wait for the server, too. After one marked "page", and of a finished fish, there is a
    // new page to show: other parts stand on it.
    keep(event) {
      const form = event.target;
      const button = event.submitter;
      if (event.defaultPrevented || !form.matches("[data-waits], [action='/undo']")) return;
      event.preventDefault();
      delete form.dataset.sent;
      const path = form.getAttribute("action");
      const fields = [...new FormData(form)].filter(([name]) => name !== "key");
      if (button?.name) fields.push([button.name, button.value]);
      if (path === this.lastForm && Date.now() - this.formAt < AGAIN_MS) return;
      if (this.isOnItsWay(path, fields)) {
        this.say("That is on its way already.", "");
        return;
      }
      this.corrected((entry) => path !== "/undo" && this.formOf(entry) === form);
      const said = [form.dataset.said, wordsOf(button)].filter(Boolean).join(": ");
      const page = form.dataset.waits === "page" || "closed" in this.$root.dataset;
      if (!this.put(path, said, fields, { page })) return;
      if (path === "/undo") this.lastMark = ""; // what lies there may be another piece
      unmarkFields(form); // as it is sent now, nobody said that it is wrong
      this.lastForm = path;
      this.lastAt = this.formAt = Date.now();
      if (!("stays" in form.dataset)) closeDoor();
      form.reset(); // it is in the queue: what comes next starts again
      form.closest("details")?.removeAttribute("open");
      if (form.contains(document.activeElement) && document.activeElement.matches("input")) {
        document.activeElement.blur();
      }
    },
    isOnItsWay(path, fields) {
      const same = JSON.stringify([path, fields]);
      return queue.waiting(this.group).some((entry) => JSON.stringify([entry.path, entry.fields]) === same);
    },

    // What was taken is not offered again until a page that was asked for after its arrival says so.
    fresh(asked) {
      for (const [slot, arrived] of this.taken) if (arrived < asked) this.taken.delete(slot);
      this.point();
    },
    // While weighings are on their way, the main button goes on to what comes after them.
    point() {
      const take = document.getElementById("b-take");
      if (take) this.pointTo(take, JSON.parse(take.dataset.coming));
      const ticks = queue.waiting(this.group).filter((entry) => entry.path.endsWith("/steps"));
      showStep(new Set(ticks.map((entry) => new Map(entry.fields).get("step"))), this.taken);
      offerFinish(this.taken.size > 0);
    },
    // By eye only what is eaten is taken.
    pointTo(take, coming) {
      const isDue = ([key, , about]) => !this.taken.has(key) && (about || !this.eye);
      const [slot, name, about] = coming.find(isDue) || ["", "", ""];
      const known = document.querySelector("#bench-take [data-about]");
      if (known) {
        known.textContent = about;
        known.parentElement.hidden = !about;
      }
      const finish = document.querySelector("#bench-finish [data-key~=f]:not([hidden] *)");
      if (finish && this.eye) finish.dataset.key = slot ? "f" : "f space pagedown";
      const enter = document.getElementById("b-default");
      if (enter) enter.value = slot;
      if (slot === take.value) return;
      take.hidden = take.disabled = !slot;
      take.value = slot;
      take.querySelector("[data-piece]").textContent = name;
      const usually = document.querySelector("#bench-take .usually.with-scale-only");
      if (usually) usually.hidden = slot !== coming[0][0];
    },

    // Other forms that take the weight carry what the display shows, too.
    addDisplay(event) {
      const form = event.target;
      if (!form.matches("[data-with-display]") || form.elements.weight?.value.trim()) return;
      const reading = this.readDisplay();
      if (reading) addHidden(form, [["shown_kg", reading.kg], ["mark", reading.mark]]);
      else {
        delete form.dataset.sent;
        event.preventDefault();
      }
    },

    count() {
      const waiting = queue.waiting(this.group);
      this.queued = waiting.some((entry) => Date.now() - entry.at > SOON_MS);
      this.point();
      if (waiting.length && !this.queued) setTimeout(() => this.count(), SOON_MS + 50);
      this.queuedText = waitingText(waiting);
    },
    // What has not gone yet is simply not sent.
    takeBack() {
      const entry = queue.takeBack(this.group);
      if (!entry) {
        this.say("It may have arrived already: undo it once the app answers.", "");
        return;
      }
      this.taken.delete(entry.slot);
      this.count();
      this.say(`Taken back: ${entry.said}`, "");
    },
    arrived({ entry, body }) {
      if (entry.group !== this.group) return;
      if (entry.slot) this.taken.set(entry.slot, performance.now());
      if (entry.page) {
        location.assign(`/fish/${this.fish}?done=${entry.key}`);
        return;
      }
      if (body.question) {
        cue("asked");
        sayAloud(body.question);
      }
      this.say(body.sentence, body.question ? "asked" : "", body);
      refresh();
    },
    // What was set aside is kept until it is sent again, corrected or dropped; it is told here once.
    refused() {
      for (const entry of queue.refused(this.group)) {
        if (this.told.has(entry.key)) continue;
        this.told.add(entry.key);
        this.taken.delete(entry.slot);
        this.point();
        this.say(`${entry.said}: ${entry.problem.map((p) => p[1]).join(" ")}`, "refused");
        const sent = new Map(entry.fields);
        for (const [name, detail] of entry.problem) {
          const field = this.field(entry, name);
          if (field && sent.has(name)) markField(field, sent.get(name), detail);
        }
      }
    },
    // What was set aside and is now done in another way is done.
    corrected(same) {
      for (const entry of queue.refused(this.group)) if (same(entry)) queue.forget(entry.key);
    },
    // The form that an entry came from; null when the page has it no longer.
    formOf(entry) {
      const sent = new Map(entry.fields);
      const isSame = (hidden) => ["key", "units"].includes(hidden.name) || sent.get(hidden.name) === hidden.value;
      const forms = [...document.querySelectorAll(`form[action="${CSS.escape(entry.path)}"]`)];
      return forms.find((form) => [...form.querySelectorAll("[type=hidden]")].every(isSame)) || null;
    },
    // The field that was wrong; null when the page has it no longer.
    field(entry, name) {
      if (entry.slot) return name === "weight" ? this.$refs.typed : null;
      const form = this.formOf(entry);
      return form?.querySelector(`[name="${CSS.escape(name)}"]:not([type=hidden], button)`) || null;
    },

    say(text, kind, done) {
      if (kind === "refused") cue("refused");
      const box = this.$root.querySelector("[data-said]");
      const said = sayIn(box, text, kind, done?.kind ? { kind: done.kind, id: done.id } : null);
      // on a phone it lies over the page: what was only taken goes by itself
      clearTimeout(this.fading);
      if (!kind && small.matches) this.fading = setTimeout(() => said.remove(), SAID_MS);
      return null;
    },
  };
}

document.addEventListener("alpine:init", () => window.Alpine.data("bench", bench));
