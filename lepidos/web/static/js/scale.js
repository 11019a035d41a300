// The bench scale's display, asked for a few times a second while the page is seen.
"use strict";
document.addEventListener("alpine:init", () => {
  const silent = { shown: "–", note: "The app does not answer.", off: true };
  window.Alpine.data("scale", () => ({
    shown: "–", lamp: "…", lampClass: "moving", note: "",
    init() { this.poll(); },
    async poll() {
      if (!document.hidden) {
        const got = await window.lepidos.get("/live/scale", silent);
        this.shown = got.shown;
        this.note = got.note;
        this.lamp = got.off ? "no answer" : got.steady ? "steady" : "moving";
        this.lampClass = got.off ? "off" : got.steady ? "" : "moving";
      }
      setTimeout(() => this.poll(), 400);
    },
  }));
});
