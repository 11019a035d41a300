// What is marked data-live is fetched again when the server says that something changed.
"use strict";
(() => {
  const EVERY_MS = 60_000; // clocks and cores move without anyone writing
  const GATHER_MS = 350;
  let pressed = null, soon = 0, mark = document.body.dataset.mark, marks = {}, source = null, busy = false, pending = false;

  // What a finger is on and a field that is being filled in are left alone: a button that is changed between
  // press and release is not pressed at all. A button that only had the focus gets it back afterwards.
  const inUse = (region) => window.lepidos.dragging || (pressed && region.contains(pressed))
    || (region.contains(document.activeElement) && document.activeElement.matches("input, textarea, select"));

  const replace = (fresh, asked) => {
    pending = false;
    for (const [id, text] of Object.entries(fresh.regions)) {
      const old = document.getElementById(id);
      const next = new DOMParser().parseFromString(text, "text/html").body.firstElementChild;
      if (!old || !next) continue;
      if (inUse(old)) { pending = true; delete marks[id]; continue; }
      for (const open of old.querySelectorAll("details[open][id]")) {
        next.querySelector(`#${CSS.escape(open.id)}`)?.setAttribute("open", "");
      }
      const held = old.contains(document.activeElement) ? document.activeElement.id : "";
      old.replaceWith(document.adoptNode(next));
      if (held) document.getElementById(held)?.focus({ preventScroll: true });
    }
    document.dispatchEvent(new CustomEvent("lepidos:fresh", { detail: { asked } }));
  };

  // A page on which nothing but the header changes asks for the header alone: a guide is long.
  const HEADER = ["gauges", "rail", "notices"];
  const address = () => {
    const here = new URL(location.href);
    here.searchParams.delete("done");
    here.searchParams.delete("printer");
    if ([...document.querySelectorAll("[data-live][id]")].some((e) => !HEADER.includes(e.id))) return here;
    return `/live/header?${new URLSearchParams({ here: document.body.dataset.here, path: here.pathname })}`;
  };

  window.lepidos.refresh = async () => {
    if (busy) { pending = true; return; }
    busy = true;
    const asked = performance.now(); // what arrived at the server later is not on this page yet
    const fresh = await window.lepidos.regions(address(), marks);
    busy = false;
    if (!fresh) return;
    mark = fresh.mark;
    marks = fresh.marks;
    const again = pending;
    replace(fresh, asked);
    if (again) window.lepidos.refresh();
  };

  // others' changes are gathered for a moment: four busy benches would fetch pages all the time
  const later = () => { soon ||= setTimeout(() => { soon = 0; window.lepidos.refresh(); }, GATHER_MS); };
  const listen = () => {
    if (document.hidden || source) return;
    source = new EventSource("/live/changes");
    source.onmessage = (event) => { if (event.data !== mark) later(); };
  };
  // a browser keeps few connections to one place: a page that nobody sees gives its own back
  const rest = () => { source?.close(); source = null; };

  if (!document.querySelector("[data-live]")) return;
  document.addEventListener("visibilitychange", () => (document.hidden ? rest() : listen()));
  window.addEventListener("pagehide", rest);
  window.addEventListener("pageshow", listen);
  document.addEventListener("pointerdown", (event) => { pressed = event.target; }, true);
  for (const over of ["pointerup", "pointercancel"]) {
    document.addEventListener(over, () => setTimeout(() => { pressed = null; if (pending) window.lepidos.refresh(); }, 50), true);
  }
  document.addEventListener("focusout", () => setTimeout(() => { if (pending) window.lepidos.refresh(); }, 0));
  setInterval(() => { if (!document.hidden) window.lepidos.refresh(); }, EVERY_MS);
  listen();
})();
