// This device's queue, in the browser's own store. What happens in it is told to all open pages as events.
import { newKey, postForm } from "./api.js";
import { makeQueue } from "./queue.js";

const pages = new BroadcastChannel("lepidos.queue");
const happened = (name, detail) => document.dispatchEvent(new CustomEvent(`lepidos:${name}`, { detail }));
pages.addEventListener("message", ({ data }) => {
  happened(data.name, data.detail);
  queue.watch();
});

// Browsers keep such locks for pages that came over a trusted address. Elsewhere two pages may send one entry at the
// same time: by its key it counts once.
const alone = (task) =>
  navigator.locks
    ? navigator.locks.request("lepidos.sending", { ifAvailable: true }, (lock) => lock && task())
    : task();

export const queue = makeQueue({
  store: localStorage,
  post: postForm,
  newKey,
  units: () => document.documentElement.dataset.units,
  tell(name, detail) {
    happened(name, detail);
    pages.postMessage({ name, detail });
  },
  now: () => Date.now(),
  later(task, ms) {
    const timer = setTimeout(task, ms);
    return () => clearTimeout(timer);
  },
  alone,
});

queue.takeOver(["lepidos.landings", "lepidos.refused", "lepidos.waiting"]);
window.addEventListener("online", queue.send);
if (queue.waiting().length) queue.send();
