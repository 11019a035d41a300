// What is done at the deck and the bench waits in the browser until the server has it: in order, and by its key once.
// What the server refuses, or fails on again and again, is set aside with the reason, so that the rest goes on; it is
// kept until someone sends it again, corrects it or drops it.
const WAITING = "lepidos.waiting";
const SET_ASIDE = "lepidos.refused";
const RETRY_MS = 2000;
const MAX_TRIES = 3;

/**
 * A queue over a store of strings.
 *
 * store: localStorage, or anything with its getItem, setItem and removeItem
 * post(path, fields): { ok, status, body, later }, or null when nobody answered; `later`: send it again in a while
 * newKey(): a fresh key for a write
 * units(): the units that the page shows now
 * tell(name, detail): called with "queue" after any change, "arrived" and "refused" for an entry
 * now(): milliseconds; later(task, ms) calls a task later and returns a function that calls it off
 */
export function makeQueue({ store, post, newKey, units, tell, now, later }) {
  const read = (name) => JSON.parse(store.getItem(name) || "[]");
  const write = (name, entries) => store.setItem(name, JSON.stringify(entries));
  const remove = (name, key) => write(name, read(name).filter((entry) => entry.key !== key));
  let sending = false;
  let callOff = () => {};

  function setAside(entry, { status, body }) {
    const errors = body.errors || [{ field: "", detail: body.detail || "No reason was given" }];
    const problem = errors.map((error) => [error.field, error.detail]);
    if (status >= 500) problem.unshift(["", `Tried ${entry.tries} times, and the app failed each time.`]);
    write(SET_ASIDE, [...read(SET_ASIDE), { ...entry, tries: 0, problem }]);
    tell("refused", { entry, body });
  }

  // true when the entry left the queue
  async function sendFirst(entry) {
    if (!entry.tried) {
      entry.tried = true; // from now on the server may have it, whether it answers or not
      write(WAITING, [entry, ...read(WAITING).slice(1)]);
    }
    const waited = ["waited_ms", String(Math.max(0, Math.round(now() - entry.at)))];
    const answer = await post(entry.path, [...entry.fields, ["key", entry.key], waited]);
    if (!answer) return false;
    if (answer.later) {
      write(WAITING, [{ ...entry, why: answer.body.detail || "" }, ...read(WAITING).slice(1)]);
      return false;
    }
    if (answer.status >= 500) {
      entry.tries = (entry.tries || 0) + 1;
      write(WAITING, [entry, ...read(WAITING).slice(1)]);
      if (entry.tries < MAX_TRIES) return false;
    }
    remove(WAITING, entry.key);
    if (answer.ok) tell("arrived", { entry, body: answer.body });
    else setAside(entry, answer);
    return true;
  }

  async function send() {
    if (sending) return;
    sending = true;
    callOff();
    for (let entry = read(WAITING)[0]; entry; entry = read(WAITING)[0]) {
      if (!(await sendFirst(entry))) break;
    }
    sending = false;
    tell("queue", null);
    if (read(WAITING).length) callOff = later(send, RETRY_MS);
  }

  function append(entry) {
    write(WAITING, [...read(WAITING), entry]);
    tell("queue", null);
    send();
  }

  return {
    send,
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
    /** What an earlier Lepidos kept waiting was all landings. */
    takeOver(oldName) {
      for (const entry of read(oldName)) {
        write(WAITING, [...read(WAITING), { ...entry, group: entry.trip, path: `/live/trips/${entry.trip}/fish` }]);
      }
      store.removeItem(oldName);
    },
  };
}
