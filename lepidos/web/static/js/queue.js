// Landings wait in the browser until the server has them: in order, and by their keys once each.
"use strict";
(() => {
  const WAITING = "lepidos.landings", REFUSED = "lepidos.landings.refused", AGAIN_MS = 2000;
  const read = (name) => JSON.parse(localStorage.getItem(name) || "[]");
  const write = (name, entries) => localStorage.setItem(name, JSON.stringify(entries));
  const without = (name, key) => write(name, read(name).filter((e) => e.key !== key));
  const tell = (name, detail) => document.dispatchEvent(new CustomEvent(`lepidos:${name}`, { detail }));
  let busy = false, timer = 0;

  const drain = async () => {
    if (busy) return;
    busy = true;
    clearTimeout(timer);
    for (let entry = read(WAITING)[0]; entry; entry = read(WAITING)[0]) {
      const waited = ["waited_ms", String(Math.max(0, Math.round(Date.now() - entry.at)))];
      const answer = await window.lepidos.post(`/live/trips/${entry.trip}/fish`, [...entry.fields, ["key", entry.key], waited]);
      if (!answer) break;
      if (!answer.ok) write(REFUSED, [...read(REFUSED), { ...entry, problem: problems(answer.body) }]);
      without(WAITING, entry.key);
      tell(answer.ok ? "landed" : "refused", { entry, body: answer.body });
    }
    busy = false;
    tell("queue", null);
    if (read(WAITING).length) timer = setTimeout(drain, AGAIN_MS);
  };

  const problems = (body) => (body.errors || [{ field: "", detail: body.detail }]).map((e) => [e.field, e.detail]);

  window.lepidos.queue = {
    // Keeps an entry; throws when the browser has no room, and then nothing was kept.
    add(trip, said, fields) {
      write(WAITING, [...read(WAITING), { key: window.lepidos.newKey(), trip, said, fields, at: Date.now() }]);
      tell("queue", null);
      drain();
    },
    waiting: (trip) => read(WAITING).filter((e) => e.trip === trip),
    refused: (trip) => read(REFUSED).filter((e) => e.trip === trip),
    forget: (key) => { without(REFUSED, key); tell("queue", null); },
  };
  window.addEventListener("online", drain);
  if (read(WAITING).length) drain();
})();
