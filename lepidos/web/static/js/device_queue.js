// This device's queue, in the browser's own store. What happens in it is told to the page as events.
import { newKey, postForm } from "./api.js";
import { makeQueue } from "./queue.js";

export const queue = makeQueue({
  store: localStorage,
  post: postForm,
  newKey,
  units: () => document.documentElement.dataset.units,
  tell: (name, detail) => document.dispatchEvent(new CustomEvent(`lepidos:${name}`, { detail })),
  now: () => Date.now(),
  later(task, ms) {
    const timer = setTimeout(task, ms);
    return () => clearTimeout(timer);
  },
});

queue.takeOver("lepidos.landings");
window.addEventListener("online", queue.send);
if (queue.waiting().length) queue.send();
