// The bench scale's display, as the server sends it: up to twenty times per second, only when it changes.
import { postForm } from "./api.js";
import { ownScale } from "./own_scale.js";

const SILENT = { shown: "–", note: "The app does not answer.", off: true, steady: false, kg: 0, mark: "" };
let latest = null;

/** What the display showed last; null before it showed anything. */
export const display = () => latest;

const lampOf = ({ off, steady }) => (off ? "no answer" : steady ? "steady" : "moving");

function paintSmallDisplays(reading) {
  for (const mini of document.querySelectorAll("[data-mini]")) {
    mini.textContent = reading.shown;
    mini.dataset.mini = lampOf(reading);
  }
}

// Tare and zero
document.addEventListener("submit", async (event) => {
  if (!event.target.matches("form[data-quiet]")) return;
  event.preventDefault();
  const own = ownScale();
  const fields = own ? [["at", own]] : [...new FormData(event.target)].filter(([name]) => name === "at");
  const answer = await postForm(`/live${new URL(event.target.action).pathname}`, fields);
  const problem = answer ? answer.body.problem : "The app does not answer.";
  document.dispatchEvent(new CustomEvent("lepidos:scale", { detail: problem }));
});

document.addEventListener("alpine:init", () => {
  window.Alpine.data("scale", () => ({
    shown: "–",
    lamp: "…",
    lampClass: "moving",
    note: "",
    source: null,
    init() {
      this.listen();
      document.addEventListener("visibilitychange", () => (document.hidden ? this.rest() : this.listen()));
      window.addEventListener("pagehide", () => this.rest());
      window.addEventListener("pageshow", () => this.listen());
      document.addEventListener("lepidos:own-scale", () => {
        this.rest();
        this.listen();
      });
      // a part of the page that was fetched again does not know yet what the display shows
      document.addEventListener("lepidos:fresh", () => { if (latest) this.show(latest); });
    },
    listen() {
      if (this.source || document.hidden) return;
      const at = ownScale() || this.$root.dataset.scale || "";
      this.source = new EventSource(`/live/scale/stream?at=${encodeURIComponent(at)}`);
      this.source.onmessage = (event) => this.show(JSON.parse(event.data));
      this.source.onerror = () => this.show(SILENT);
    },
    rest() {
      this.source?.close();
      this.source = null;
    },
    show(reading) {
      latest = reading;
      if (this.shown !== reading.shown) this.shown = reading.shown;
      this.note = reading.note;
      this.lamp = lampOf(reading);
      this.lampClass = reading.off ? "off" : reading.steady ? "" : "moving";
      paintSmallDisplays(reading);
    },
  }));
});
