// What is done at the deck and the bench waits in the browser until the server has it: in order, and by its key once.
"use strict";
(() => {
  const WAITING = "lepidos.waiting", REFUSED = "lepidos.refused", AGAIN_MS = 2000;
  const read = (name) => JSON.parse(localStorage.getItem(name) || "[]");
  const write = (name, entries) => localStorage.setItem(name, JSON.stringify(entries));
  const without = (name, key) => write(name, read(name).filter((e) => e.key !== key));
  const tell = (name, detail) => document.dispatchEvent(new CustomEvent(`lepidos:${name}`, { detail }));
  let busy = false, timer = 0;

  // what an earlier Lepidos kept waiting was all landings
  for (const e of read("lepidos.landings")) write(WAITING, [...read(WAITING), { ...e, group: e.trip, path: `/live/trips/${e.trip}/fish` }]);
  localStorage.removeItem("lepidos.landings");

  const drain = async () => {
    if (busy) return;
    busy = true;
    clearTimeout(timer);
    for (let entry = read(WAITING)[0]; entry; entry = read(WAITING)[0]) {
      const waited = ["waited_ms", String(Math.max(0, Math.round(Date.now() - entry.at)))];
      const answer = await window.lepidos.post(entry.path, [...entry.fields, ["key", entry.key], waited]);
      if (!answer) break;
      if (!answer.ok) write(REFUSED, [...read(REFUSED), { ...entry, problem: problems(answer.body) }]);
      without(WAITING, entry.key);
      tell(answer.ok ? "arrived" : "refused", { entry, body: answer.body });
    }
    busy = false;
    tell("queue", null);
    if (read(WAITING).length) timer = setTimeout(drain, AGAIN_MS);
  };

  const problems = (body) => (body.errors || [{ field: "", detail: body.detail }]).map((e) => [e.field, e.detail]);

  window.lepidos.queue = {
    // Keeps an entry of a group for a path; throws when the browser has no room, and then nothing was kept.
    // `more` comes back with it when it has arrived or was refused.
    add(path, group, said, fields, more = {}) {
      write(WAITING, [...read(WAITING), { key: window.lepidos.newKey(), path, group, said, fields, at: Date.now(), ...more }]);
      tell("queue", null);
      drain();
    },
    waiting: (group) => read(WAITING).filter((e) => e.group === group),
    refused: (group) => read(REFUSED).filter((e) => e.group === group),
    forget: (key) => { without(REFUSED, key); tell("queue", null); },
  };
  window.addEventListener("online", drain);
  if (read(WAITING).length) drain();
})();
