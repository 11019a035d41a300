// The landing panel: keypad, the weight to expect, and entries that go on without the server.
"use strict";
const SOON_MS = 800;
document.addEventListener("alpine:init", () => {
  window.Alpine.data("landing", () => ({
    field: "length", estimate: "", range: "", hasEstimate: false, warning: "", warns: false, asked: 0,
    lengthWord: "Length", queued: false, queuedText: "", trip: "", correcting: "",
    init() {
      this.trip = this.$root.dataset.trip;
      document.addEventListener("lepidos:queue", () => this.count());
      document.addEventListener("lepidos:arrived", (e) => this.landed(e.detail));
      document.addEventListener("lepidos:refused", () => this.again());
      this.chose();
      this.count();
      this.again();
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
    typedWeight() { this.$refs.method.value = "typed"; },
    async fromScale() {
      const got = await window.lepidos.get("/live/scale", { off: true, note: "The scale does not answer." });
      if (got.off || !got.steady) return this.show(got.off ? got.note : "The scale is still moving.", "refused");
      this.$refs.weight.value = got.shown;
      this.$refs.method.value = "scale";
    },
    narrow(event) {
      const wanted = event.target.value.trim().toLowerCase();
      for (const one of this.$refs.more.querySelectorAll("[data-names]")) one.hidden = !one.dataset.names.includes(wanted);
    },
    species() { return this.$root.querySelector("input[name=species]:checked"); },
    kind() { return this.$root.querySelector("#length_type").value || this.species()?.dataset.lengthType; },
    chose() {
      const one = this.species();
      const care = one && this.$root.querySelector(`[data-for="${one.value}"]`);
      this.warns = Boolean(care);
      this.warning = care ? care.textContent : "";
      this.changed();
    },
    async changed() {
      const one = this.species(), length = this.$refs.length.value;
      const turn = ++this.asked;
      this.lengthWord = this.kind() === "fork" ? "Fork length" : "Total length";
      this.hasEstimate = false;
      if (!one || !length) return;
      const asked = new URLSearchParams({ species: one.value, length, length_type: this.kind() });
      const got = await window.lepidos.get(`/live/weight?${asked}`, null);
      if (turn !== this.asked || !got) return;
      this.estimate = got.value;
      this.range = got.range;
      this.hasEstimate = true;
    },
    send(event) {
      const fields = [...new FormData(this.$refs.form)].filter(([name, value]) => name !== "key" && value);
      const said = `${this.species()?.dataset.name || "fish"} ${this.$refs.length.value}`;
      try {
        window.lepidos.queue.add(`/live/trips/${this.trip}/fish`, this.trip, said, fields);
      } catch {
        return; // no room in the browser: the form goes the plain way
      }
      event.preventDefault();
      if (this.correcting) window.lepidos.queue.forget(this.correcting);
      this.correcting = "";
      for (const problem of this.$root.querySelectorAll(".field-problem")) problem.remove();
      this.clear();
    },
    clear() {
      for (const name of ["length", "weight", "landed_at", "hooked_at"]) this.$root.querySelector(`[name=${name}]`).value = "";
      this.$refs.method.value = "typed";
      this.field = "length";
      this.changed();
      if (matchMedia("(pointer: fine)").matches) this.$refs.length.focus();
    },
    count() {
      const waiting = window.lepidos.queue.waiting(this.trip);
      // what is gone within the moment needs no telling
      this.queued = waiting.some((e) => Date.now() - e.at > SOON_MS);
      if (waiting.length && !this.queued) setTimeout(() => this.count(), SOON_MS + 50);
      this.queuedText = `${waiting.length} on the way: ${waiting.map((e) => e.said).join(", ")}. Kept here until they arrive.`;
    },
    landed({ entry, body }) {
      if (entry.group !== this.trip) return;
      this.show(body.question ? `${body.sentence}. ${body.question}` : body.sentence, body.question ? "asked" : "", body.id);
      window.lepidos.refresh();
    },
    // A refused entry comes back into the form when that is free; it is kept until it was sent again or dropped.
    again() {
      const [entry] = window.lepidos.queue.refused(this.trip).filter((e) => !e.path.endsWith("/undo"));
      if (!entry || this.$refs.length.value || this.correcting) return;
      for (const box of this.$refs.form.querySelectorAll("input[type=checkbox]")) box.checked = false;
      for (const [name, value] of entry.fields) {
        for (const input of this.$refs.form.querySelectorAll(`[name="${CSS.escape(name)}"]`)) {
          if (input.type !== "radio" && input.type !== "checkbox") input.value = value;
          else if (input.value === value) input.checked = true;
        }
      }
      this.correcting = entry.key;
      for (const [field, text] of entry.problem) {
        const note = Object.assign(document.createElement("p"), { className: "field-problem", textContent: text });
        note.setAttribute("role", "alert");
        const at = this.$root.querySelector(`[name="${CSS.escape(field || "length")}"]`) || this.$refs.length;
        (at.closest(".pair, fieldset, details") || at).after(note);
        at.closest("details")?.setAttribute("open", "");
      }
      this.chose();
    },
    show(text, kind, fish) {
      const box = document.createElement("div");
      box.className = `said ${kind}`;
      box.setAttribute("role", "status");
      box.append(Object.assign(document.createElement("p"), { textContent: text }));
      if (fish) box.append(this.undo(fish));
      document.querySelector("[data-said]").replaceChildren(box);
      document.querySelectorAll(".main > .said").forEach((old) => old.remove());
    },
    undo(fish) {
      const form = Object.assign(document.createElement("form"), { method: "post", action: "/undo" });
      form.dataset.once = "";
      const fields = { key: window.lepidos.newKey(), kind: "fish", id: fish, back: location.pathname + location.search };
      for (const [name, value] of Object.entries(fields)) form.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
      const button = Object.assign(document.createElement("button"), { className: "btn", textContent: "Undo" });
      button.dataset.key = "z";
      form.append(button);
      return form;
    },
  }));
});
