// What is done at the deck and the bench waits in the browser until the server has it: in order, and by its key once.
// What the server refuses, or fails on again and again, is set aside with the reason, so that the rest goes on; it is
// kept until someone sends it again, corrects it or drops it.
// The queue is the browser's: each entry has a place of its own in the store, so that no open page of the app writes
// over what another one keeps, and only an entry's own answer takes it away.
const WAITING = "lepidos.waiting/";
const SET_ASIDE = "lepidos.refused/";
const RETRY_MS = 2000;
const MAX_TRIES = 3;

const inOrder = (a, b) => a.turn - b.turn || a.at - b.at || (a.key < b.key ? -1 : 1);

/**
 * A queue over a store of strings.
 *
 * store: localStorage, or anything with its length, key, getItem, setItem and removeItem
 * post(path, fields): { ok, status, body, later }, or null when nobody answered; `later`: send it again in a while
 * newKey(): a fresh key for a write
 * units(): the units that the page shows now
 * tell(name, detail): called with "queue" after any change, "arrived" and "refused" for an entry
 * now(): milliseconds; later(task, ms) calls a task later and returns a function that calls it off
 * alone(task): calls a task unless another page of the browser is sending just now
 */
export function makeQueue({ store, post, newKey, units, tell, now, later, alone = (task) => task() }) {
  let sending = false;
  let callOff = () => {};

  const keep = (place, entry) => store.setItem(place + entry.key, JSON.stringify(entry));
  function read(place) {
    const names = Array.from({ length: store.length }, (_, n) => store.key(n)).filter((name) => name.startsWith(place));
    return names.map((name) => JSON.parse(store.getItem(name))).filter(Boolean).sort(inOrder);
  }
  // True when it was still there: another page may have had its answer meanwhile.
  function remove(place, key) {
    const found = store.getItem(place + key) !== null;
    store.removeItem(place + key);
    return found;
  }
  function note(entry, changes) {
    if (store.getItem(WAITING + entry.key) === null) return;
    try {
      keep(WAITING, { ...entry, ...changes });
    } catch {
      // no room for the note; the entry itself stays as it is
    }
  }

  function setAside(entry, { status, body }) {
    const errors = body.errors || [{ field: "", detail: body.detail || "No reason was given" }];
    const problem = errors.map((error) => [error.field, error.detail]);
    if (status >= 500) problem.unshift(["", `Tried ${entry.tries} times, and the app failed each time.`]);
    keep(SET_ASIDE, { ...entry, tries: 0, problem });
    remove(WAITING, entry.key);
    tell("refused", { entry, body });
  }

  // true when the entry left the queue
  async function sendFirst(entry) {
    if (!entry.tried) {
      entry.tried = true; // from now on the server may have it, whether it answers or not
      note(entry, {});
    }
    const waited = ["waited_ms", String(Math.max(0, Math.round(now() - entry.at)))];
    const answer = await post(entry.path, [...entry.fields, ["key", entry.key], waited]);
    if (!answer) return false;
    if (answer.later) {
      note(entry, { why: answer.body.detail || "" });
      return false;
    }
    if (answer.status >= 500) {
      entry.tries = (entry.tries || 0) + 1;
      note(entry, {});
      if (entry.tries < MAX_TRIES) return false;
    }
    if (!answer.ok) {
      if (store.getItem(WAITING + entry.key) !== null) setAside(entry, answer);
    } else if (remove(WAITING, entry.key)) tell("arrived", { entry, body: answer.body });
    return true;
  }

  async function sendAll() {
    for (let entry = read(WAITING)[0]; entry; entry = read(WAITING)[0]) {
      if (!(await sendFirst(entry))) break;
    }
  }

  async function send() {
    if (sending) return;
    sending = true;
    callOff();
    try {
      await alone(sendAll);
    } finally {
      sending = false;
    }
    tell("queue", null);
    if (read(WAITING).length) callOff = later(send, RETRY_MS);
  }

  function append(entry) {
    keep(WAITING, { ...entry, turn: (read(WAITING).at(-1)?.turn || 0) + 1 });
    tell("queue", null);
    send();
  }

  return {
    send,
    /** Another page kept something: it is sent from here when that page does not, since it may be closed. */
    watch() {
      if (sending || !read(WAITING).length) return;
      callOff();
      callOff = later(send, RETRY_MS);
    },
    /**
     * Keeps an entry of a group for a path, in the units it was typed in; throws when the store has no room, and then
     * nothing was kept. `more` comes back with it when it has arrived or was refused.
     */
    add(path, group, said, typed, more = {}) {
      const fields = typed.some(([name]) => name === "units") ? typed : [...typed, ["units", units()]];
      append({ key: newKey(), path, group, said, fields, at: now(), ...more });
    },
    waiting: (group) => read(WAITING).filter((entry) => !group || entry.group === group),
    refused: (group) => read(SET_ASIDE).filter((entry) => !group || entry.group === group),
    /** The group's last waiting entry, which is then not sent; null when there is none or the server may have it. */
    takeBack(group) {
      const entry = read(WAITING).filter((one) => one.group === group).at(-1);
      if (!entry || entry.tried) return null;
      remove(WAITING, entry.key);
      tell("queue", null);
      return entry;
    },
    forget(key) {
      remove(SET_ASIDE, key);
      tell("queue", null);
    },
    sendAgain(key) {
      const found = read(SET_ASIDE).find((entry) => entry.key === key);
      if (!found) return;
      const entry = { ...found };
      delete entry.problem;
      remove(SET_ASIDE, key);
      append(entry);
    },
    /** What an earlier Lepidos kept: lists of entries; the oldest of them were all landings. */
    takeOver(oldNames) {
      for (const name of oldNames) {
        const text = store.getItem(name);
        const place = name === "lepidos.refused" ? SET_ASIDE : WAITING;
        const entries = JSON.parse(text || "[]").map((old, n) => ({
          ...(old.path ? {} : { group: old.trip, path: `/live/trips/${old.trip}/fish` }),
          ...old,
          turn: n - 1000, // before what was done since
        }));
        store.removeItem(name);
        try {
          for (const entry of entries) keep(place, entry);
        } catch {
          for (const entry of entries) remove(place, entry.key);
          store.setItem(name, text); // no room now; the next page tries again
        }
      }
    },
  };
}
