// A scale plugged into this very device: its lines go on to the app, which works them out as for every scale (see
// docs/scale-line.md). Browsers allow it on a page that came over a trusted address, after a touch.
import { newKey, postForm } from "./api.js";

const KEY = "lepidos.own_scale";
const EVERY_MS = 100;
const BAUD = 9600;
const MAX_WAITING = 50; // what is older than that is of no use
let port = null;
let waiting = [];
let sending = false;
let wrote = 0; // what was written to the scale so far: an answer that was lost comes again

const key = () => {
  if (!localStorage.getItem(KEY)) localStorage.setItem(KEY, `own-${newKey()}`);
  return localStorage.getItem(KEY);
};
const tell = (problem) => document.dispatchEvent(new CustomEvent("lepidos:scale", { detail: problem }));

/** The key of this device's own scale, "" when none is attached. */
export const ownScale = () => (port ? key() : "");

async function write(lines) {
  if (!lines.length || !port?.writable) return;
  const writer = port.writable.getWriter();
  await writer.write(new TextEncoder().encode(lines.join("")));
  writer.releaseLock();
}

async function send() {
  if (sending || !waiting.length) return;
  sending = true;
  const lines = waiting.splice(0);
  const fields = [["at", key()], ["lines", lines.join("\n")], ["wrote", String(wrote)]];
  const answer = await postForm("/live/own-scale", fields);
  if (answer?.body.problem) tell(answer.body.problem);
  if (answer?.body.tell) {
    await write(answer.body.tell).catch(() => {});
    wrote = answer.body.upto;
  }
  sending = false;
}

async function listen() {
  let rest = "";
  const text = port.readable.pipeThrough(new TextDecoderStream());
  for await (const part of text) {
    const lines = (rest + part).split("\n");
    rest = lines.pop().slice(0, 200);
    waiting = [...waiting, ...lines].slice(-MAX_WAITING);
  }
}

function paint() {
  for (const button of document.querySelectorAll("[data-own-scale]")) {
    button.hidden = false;
    button.setAttribute("aria-pressed", String(Boolean(port)));
  }
}

async function attach(chosen) {
  const timer = setInterval(send, EVERY_MS);
  try {
    await chosen.open({ baudRate: BAUD });
    port = chosen;
    paint();
    document.dispatchEvent(new CustomEvent("lepidos:own-scale"));
    await listen();
  } catch {
    tell("The scale on this device went away. Plug it in, then touch Scale on this device again.");
  }
  clearInterval(timer);
  port = null;
  paint();
  document.dispatchEvent(new CustomEvent("lepidos:own-scale"));
}

async function choose() {
  if (port) return;
  try {
    attach(await navigator.serial.requestPort());
  } catch { /* nobody chose one */ }
}

if ("serial" in navigator) {
  paint();
  document.addEventListener("click", (event) => { if (event.target.closest("[data-own-scale]")) choose(); });
  document.addEventListener("lepidos:fresh", paint);
  // one that was allowed here before is taken again on the next page
  if (localStorage.getItem(KEY)) {
    navigator.serial.getPorts().then(([known]) => { if (known) attach(known); });
  }
}
