// The landing panel: keypad, and the weight to expect from a length, asked of the server.
"use strict";
document.addEventListener("alpine:init", () => {
  window.Alpine.data("landing", () => ({
    field: "length", estimate: "", range: "", hasEstimate: false, warning: "", warns: false, asked: 0,
    init() { this.chose(); },
    lengthFocus() { this.field = "length"; },
    weightFocus() { this.field = "weight"; },
    press(event) { this.write(this.$refs[this.field].value + event.currentTarget.dataset.digit); },
    rub() { this.write(this.$refs[this.field].value.slice(0, -1)); },
    write(text) { this.$refs[this.field].value = text; if (this.field === "length") this.changed(); },
    species() { return this.$root.querySelector("input[name=species]:checked"); },
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
      this.hasEstimate = false;
      if (!one || !length) return;
      const kind = this.$root.querySelector("#length_type").value || one.dataset.lengthType;
      const asked = new URLSearchParams({ species: one.value, length, length_type: kind });
      const got = await window.lepidos.get(`/live/weight?${asked}`, null);
      if (turn !== this.asked || !got) return;
      this.estimate = got.value;
      this.range = got.range;
      this.hasEstimate = true;
    },
  }));
});
