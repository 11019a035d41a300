// The bench scale's display, as the server sends it: up to twenty times a second, only when it changes.
"use strict";
document.addEventListener("submit", async (event) => {
  if (!event.target.matches("form[data-quiet]")) return;
  event.preventDefault();
  const answer = await window.lepidos.post(`/live${new URL(event.target.action).pathname}`, []);
  document.dispatchEvent(new CustomEvent("lepidos:scale", { detail: answer ? answer.body.problem : "The app does not answer." }));
});
document.addEventListener("alpine:init", () => {
  const silent = { shown: "–", note: "The app does not answer.", off: true, steady: false, kg: 0, mark: "" };
  window.Alpine.data("scale", () => ({
    shown: "–", lamp: "…", lampClass: "moving", note: "", source: null,
    init() {
      this.listen();
      document.addEventListener("visibilitychange", () => (document.hidden ? this.rest() : this.listen()));
      window.addEventListener("pagehide", () => this.rest());
      window.addEventListener("pageshow", () => this.listen());
      // a part of the page that was fetched again does not know yet what the display shows
      document.addEventListener("lepidos:fresh", () => { if (window.lepidos.scale) this.show(window.lepidos.scale); });
    },
    listen() {
      if (this.source || document.hidden) return;
      this.source = new EventSource("/live/scale/stream");
      this.source.onmessage = (event) => this.show(JSON.parse(event.data));
      this.source.onerror = () => this.show(silent);
    },
    rest() { this.source?.close(); this.source = null; },
    show(got) {
      window.lepidos.scale = got;
      if (this.shown !== got.shown) this.shown = got.shown;
      for (const mini of document.querySelectorAll("[data-mini]")) { mini.textContent = got.shown; mini.dataset.mini = got.off ? "no answer" : got.steady ? "steady" : "moving"; }
      this.note = got.note;
      this.lamp = got.off ? "no answer" : got.steady ? "steady" : "moving";
      this.lampClass = got.off ? "off" : got.steady ? "" : "moving";
    },
  }));
});
