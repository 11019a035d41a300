// What is done at the deck and the bench waits in the browser until the server has it: in order, and by its key once.
// What the server refuses, or fails on again and again, is set aside with the reason, so that the rest goes on; it is
// kept until someone sends it again, corrects it or drops it.
"use strict";
(() => {
  const WAITING = "lepidos.waiting", ASIDE = "lepidos.refused", AGAIN_MS = 2000, MOST_TRIES = 3;
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
      if (!answer) break; // nobody answered: it waits
      if (answer.status >= 500) {
        entry.tries = (entry.tries || 0) + 1;
        write(WAITING, [entry, ...read(WAITING).slice(1)]);
        if (entry.tries < MOST_TRIES) break;
      }
      without(WAITING, entry.key);
      if (!answer.ok) setAside(entry, answer);
      else tell("arrived", { entry, body: answer.body });
    }
    busy = false;
    tell("queue", null);
    if (read(WAITING).length) timer = setTimeout(drain, AGAIN_MS);
  };

  const setAside = (entry, { status, body }) => {
    const problem = (body.errors || [{ field: "", detail: body.detail || "No reason was given" }]).map((e) => [e.field, e.detail]);
    if (status >= 500) problem.unshift(["", `Tried ${entry.tries} times, and the app failed each time.`]);
    write(ASIDE, [...read(ASIDE), { ...entry, tries: 0, problem }]);
    tell("refused", { entry, body });
  };

  window.lepidos.queue = {
    // Keeps an entry of a group for a path; throws when the browser has no room, and then nothing was kept.
    // `more` comes back with it when it has arrived or was refused.
    // What was typed stays in the units it was typed in.
    add(path, group, said, typed, more = {}) {
      const units = document.documentElement.dataset.units;
      const fields = typed.some(([name]) => name === "units") ? typed : [...typed, ["units", units]];
      write(WAITING, [...read(WAITING), { key: window.lepidos.newKey(), path, group, said, fields, at: Date.now(), ...more }]);
      tell("queue", null);
      drain();
    },
    waiting: (group) => read(WAITING).filter((e) => e.group === group),
    // Those of a group, or all.
    refused: (group) => read(ASIDE).filter((e) => !group || e.group === group),
    forget: (key) => { without(ASIDE, key); tell("queue", null); },
    again(key) {
      const entry = read(ASIDE).find((e) => e.key === key);
      if (!entry) return;
      without(ASIDE, key);
      const { problem, ...rest } = entry;
      write(WAITING, [...read(WAITING), rest]);
      tell("queue", null);
      drain();
    },
  };
  window.addEventListener("online", drain);
  if (read(WAITING).length) drain();
})();
