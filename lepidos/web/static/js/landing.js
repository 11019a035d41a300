// The landing panel: keypad, the weight to expect, and entries that go on without the server.
import { getJson } from "./api.js";
import { queue } from "./device_queue.js";
import { closeDoor } from "./doors.js";
import { refresh } from "./live.js";
import { sayIn, waitingText } from "./said.js";
import { small } from "./small.js";

const SAID_MS = 12_000;
const SOON_MS = 800; // what has gone within the moment is not told

const isBox = (input) => input.type === "radio" || input.type === "checkbox";

function landing() {
  return {
    field: "length", estimate: "", range: "", hasEstimate: false, warning: "", warns: false, asked: 0,
    lengthWord: "Length", weightWord: "Weight", many: false, needsLength: true, queued: false, queuedText: "",
    trip: "", correcting: "", moreText: "",
    isNearest: false, offered: false, inRun: false,
    fading: 0, aboutOpen: "false", aboutState: "closed", aboutText: "",

    init() {
      this.trip = this.$root.dataset.trip;
      document.addEventListener("lepidos:queue", () => this.count());
      document.addEventListener("lepidos:arrived", (e) => this.landed(e.detail));
      document.addEventListener("lepidos:refused", () => this.fillInRefused());
      // whoever touches a kind has chosen, the one chosen already, too; by arrow keys one goes on through the list
      this.$refs.more?.addEventListener("click", (event) => {
        if (event.target.matches("label[for^='s-']") && event.detail) setTimeout(() => this.leaveList(true));
        else if (event.target.matches("input[name=species]")) this.leaveList();
      });
      this.nearestChosen();
      this.typedWeight();
      this.counted();
      this.count();
      this.fillInRefused();
      this.tellAbout();
      this.openAbout(Boolean(this.$refs.about.querySelector(".field-problem")));
    },

    // On a phone where it lies, whose it is and the rarer things lie in a sheet over the panel; its button says them.
    openAbout(on) {
      this.aboutOpen = String(on);
      this.aboutState = on ? "open" : "closed";
      this.tellAbout();
    },
    toggleAbout() { this.openAbout(this.aboutState === "closed"); },
    tellAbout() {
      const about = this.$refs.about;
      const boxes = about.querySelectorAll("input[name=lies]:checked, input[name=party]:checked");
      const count = Number(this.$refs.count.value);
      const said = [...boxes].map((box) => box.labels[0].textContent.trim());
      const who = about.querySelector("#caught_by");
      if (count > 1) said.unshift(`${count} alike`);
      if (who?.value) said.push(who.selectedOptions[0].textContent.trim());
      this.aboutText = this.aboutState === "open" ? "Close" : said.join(" · ") || "How many, where, whose";
    },

    lengthFocus() { this.field = "length"; },
    weightFocus() { this.field = "weight"; },
    press(event) { this.write(this.$refs[this.field].value + event.currentTarget.dataset.digit); },
    rub() { this.write(this.$refs[this.field].value.slice(0, -1)); },
    write(text) {
      this.$refs[this.field].value = text;
      if (this.field === "length") this.changed();
      else this.typedWeight();
    },
    typedWeight() {
      this.$refs.method.value = "typed";
      this.needsLength = !this.$refs.weight.value;
    },
    // Several alike: the length is that of the shortest, the weight that of all together.
    counted() {
      this.many = Number(this.$refs.count.value) > 1;
      this.weightWord = this.many ? "All together" : "Weight";
      if (!this.many) this.$refs.longest.value = "";
      this.changed();
      this.tellAbout();
    },
    async fromScale() {
      const reading = await getJson("/live/scale", { off: true, note: "The scale does not answer." });
      if (reading.off || !reading.steady) {
        this.show(reading.off ? reading.note : "The scale is still moving.", "refused");
        return;
      }
      this.$refs.weight.value = reading.shown;
      this.$refs.method.value = "scale";
      this.needsLength = false;
    },

    narrow(event) {
      const wanted = event.target.value.trim().toLowerCase();
      const has = (one) => one.dataset.names.includes(wanted);
      const near = [...this.$refs.more.querySelectorAll(".near-only")];
      let found = near.filter(has).length;
      for (const one of this.$refs.more.querySelectorAll("span[data-names]")) {
        one.hidden = !has(one);
        if (!one.hidden) found += 1;
      }
      this.warn(wanted, found > 0);
      if (wanted && !found && (this.offered || !this.isNearest)) this.offerNearest(event.target.value.trim());
      else if (this.offered) this.offerNearest("");
      for (const one of near) one.hidden = wanted && !this.offered ? !has(one) : !this.isNearest;
    },
    // read when a name is typed: most landings need none of it
    async warn(wanted, isKind) {
      const { warnOf } = await import("./dangers.js");
      await warnOf(this.$refs.danger, wanted, isKind);
    },
    // by keys: Return takes what fits best and goes on to its length, the arrow down stays in the list
    takeFound(event) {
      const wanted = this.$refs.called.value.trim().toLowerCase();
      const found = [...this.$refs.more.querySelectorAll("[data-names]:not([hidden])")];
      const begins = (end) => found.find((one) => one.dataset.names.startsWith(wanted + end));
      const first = begins(" ") || begins("") || found[0]; // whiting before blue whiting
      if (!first || !wanted || this.offered) return;
      const kind = first.dataset.kind || first.querySelector("input").value;
      const box = this.$root.querySelector(`#s-${kind}`);
      box.checked = true;
      this.chose(event);
      const done = event.key === "Enter";
      this.leaveList(done);
      (done ? this.$refs.length : box).focus();
      if (!done) return;
      this.$refs.called.value = "";
      this.narrow({ target: this.$refs.called });
    },
    // No fish of that name, so far: what is typed is what it is called, and every kind is shown to choose from.
    offerNearest(name) {
      this.offered = this.isNearest = this.$refs.nearest.checked = Boolean(name);
      this.$refs.name.value = name;
      if (name) this.showEvery();
      this.chose();
    },
    // on a phone a sheet lies over the button that opened it
    closeSheet(event) { event.currentTarget.closest("details").open = false; },
    showEvery() {
      for (const one of this.$refs.more.querySelectorAll("[data-names]")) one.hidden = false;
    },
    // another kind is chosen after such a fish was landed: it is one of the guide's again
    endRun() {
      this.inRun = this.isNearest = this.$refs.nearest.checked = false;
      this.$refs.name.value = "";
      this.hideNear();
    },
    nearestChosen() {
      this.inRun = false;
      this.offered = false;
      this.isNearest = this.$refs.nearest?.checked || false;
      if (this.isNearest) {
        this.$refs.called.value = "";
        this.showEvery();
      } else this.hideNear();
      this.chose();
    },
    // they stand in the first row; the list has them for who looks there by name, or for what a fish is like
    hideNear() {
      for (const one of this.$refs.more?.querySelectorAll(".near-only") ?? []) one.hidden = true;
    },
    species() { return this.$root.querySelector("input[name=species]:checked"); },
    lengthType() { return this.$root.querySelector("#length_type").value || this.species()?.dataset.lengthType; },
    // the kinds of the first row, which the list hides on a phone
    nearKind(event) {
      this.$root.querySelector(`#s-${event.currentTarget.dataset.kind}`).checked = true;
      this.chose(event);
      this.leaveList(event.detail > 0);
    },
    chose(event) {
      if (event && this.inRun) this.endRun();
      const one = this.species();
      const kinds = one ? [...(this.isNearest ? ["?"] : []), one.value] : [];
      const care = kinds.map((kind) => this.$root.querySelector(`[data-for="${kind}"]`)?.textContent);
      this.warning = care.filter(Boolean).join(" ");
      this.warns = Boolean(this.warning);
      document.getElementById("landing-care").textContent = this.warning.trim();
      const fromMore = one && (this.isNearest || this.$refs.more?.contains(one));
      const name = this.isNearest && one ? `${this.$refs.name.value || "unknown fish"}, like ${one.dataset.name}`
        : one?.dataset.name;
      this.moreText = fromMore ? `✓ ${name}, ` : "";
      if (fromMore && event) this.leaveList();
      this.changed();
    },
    // on a phone the open list lies over all else, on a laptop it pushes the length out of sight
    leaveList(done = false) {
      if (done || small.matches) this.$refs.more.open = false;
    },
    async changed() {
      const one = this.species();
      const length = this.$refs.length.value;
      const turn = ++this.asked;
      const taken = this.$root.querySelector(`#length_type option[value="${this.lengthType()}"]`);
      this.lengthWord = this.many ? "Shortest" : taken?.dataset.name || "Length";
      this.hasEstimate = false;
      if (!one || !length) return;
      const query = new URLSearchParams({ species: one.value, length, length_type: this.lengthType() });
      const got = await getJson(`/live/weight?${query}`, null);
      if (turn !== this.asked || !got) return;
      this.estimate = got.value;
      this.range = got.range;
      this.hasEstimate = true;
    },

    send(event) {
      const fields = [...new FormData(this.$refs.form)].filter(([name, value]) => name !== "key" && value);
      const kind = this.species()?.dataset.name || "fish";
      const size = [this.$refs.length.value, this.$refs.longest.value].filter(Boolean).join(" to ");
      const name = this.isNearest ? `like ${kind}` : this.many ? `${this.$refs.count.value} ${kind}` : kind;
      const said = `${name} ${size || this.$refs.weight.value}`;
      try {
        queue.add(`/live/trips/${this.trip}/fish`, this.trip, said, fields);
      } catch {
        return; // no room in the browser: the form goes the plain way
      }
      event.preventDefault();
      closeDoor();
      this.openAbout(false);
      if (this.correcting) queue.forget(this.correcting);
      this.correcting = "";
      for (const problem of this.$root.querySelectorAll(".field-problem")) problem.remove();
      this.clear();
    },
    clear() {
      for (const name of ["length", "weight", "landed_at", "hooked_at"]) {
        this.$root.querySelector(`[name=${name}]`).value = "";
      }
      this.$refs.count.value = "1";
      this.typedWeight();
      this.counted();
      if (this.isNearest) {
        // a run of one kind needs only the number, of a kind that the guide lacks, too
        this.inRun = true;
        this.offered = false;
        this.$refs.called.value = "";
        this.showEvery();
      }
      this.field = "length";
      this.changed();
      if (matchMedia("(pointer: fine)").matches) this.$refs.length.focus();
    },

    count() {
      const waiting = queue.waiting(this.trip);
      this.queued = waiting.some((entry) => Date.now() - entry.at > SOON_MS);
      if (waiting.length && !this.queued) setTimeout(() => this.count(), SOON_MS + 50);
      this.queuedText = waitingText(waiting);
    },
    landed({ entry, body }) {
      if (entry.group !== this.trip) return;
      const undo = { kind: body.kind || "fish", id: body.id };
      if (body.question) this.show(`${body.sentence}. ${body.question}`, "asked", undo);
      else this.show(body.sentence, "", undo);
      refresh();
    },

    // A refused entry comes back into the form when that is free; it is kept until it was sent again or dropped.
    fillInRefused() {
      const [entry] = queue.refused(this.trip).filter((e) => !e.path.endsWith("/undo"));
      if (!entry || this.$refs.length.value || this.correcting) return;
      this.fillIn(entry.fields);
      this.correcting = entry.key;
      this.typedWeight();
      this.counted();
      for (const [field, text] of entry.problem) this.noteAt(field, text);
      this.nearestChosen();
      this.tellAbout();
    },
    fillIn(fields) {
      for (const box of this.$refs.form.querySelectorAll("input[type=checkbox]")) box.checked = false;
      for (const [name, value] of fields) {
        for (const input of this.$refs.form.querySelectorAll(`[name="${CSS.escape(name)}"]`)) {
          if (!isBox(input)) input.value = value;
          else if (input.value === value) input.checked = true;
        }
      }
    },
    noteAt(field, text) {
      const note = Object.assign(document.createElement("p"), { className: "field-problem", textContent: text });
      note.setAttribute("role", "alert");
      const at = this.$root.querySelector(`[name="${CSS.escape(field || "length")}"]`) || this.$refs.length;
      (at.closest(".pair, fieldset, details") || at).after(note);
      at.closest("details")?.setAttribute("open", "");
      if (this.$refs.about.contains(at)) this.openAbout(true);
    },

    show(text, kind, undo) {
      const said = sayIn(document.querySelector("[data-said]"), text, kind, undo);
      // on a phone it lies over what comes next
      clearTimeout(this.fading);
      if (!kind && small.matches) this.fading = setTimeout(() => said.remove(), SAID_MS);
    },
  };
}

document.addEventListener("alpine:init", () => window.Alpine.data("landing", landing));
