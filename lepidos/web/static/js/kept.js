// The app opens on this device also when nothing answers: worker.js keeps its pages. Browsers allow that on a page
// that came over a trusted address, or from the machine itself.
import { newKey } from "./api.js";

const FIRST_MS = 1500; // the page itself goes first
const AGAIN_MS = 30_000;
const PAGES = "lepidos-pages";
let asked = 0;

const clock = (at) => new Date(at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });

async function keep() {
  if (Date.now() - asked < AGAIN_MS) return;
  asked = Date.now();
  const { active } = await navigator.serviceWorker.ready;
  active?.postMessage("keep");
}

async function countKept(place) {
  const pages = await caches.open(PAGES);
  const paths = (await pages.keys()).map((request) => new URL(request.url).pathname);
  const count = paths.filter((path) => !path.startsWith("/live/")).length;
  place.textContent = count
    ? `${count} pages are kept on this device, for when nothing answers.`
    : "This device keeps the app's pages while you work; look again in a minute.";
}

function sayKept(at) {
  const said = Object.assign(document.createElement("p"), { className: "kept-note" });
  said.setAttribute("role", "status");
  said.textContent = `No answer: this page is of ${clock(at)}. What you land and weigh is kept here and sent later.`;
  document.querySelector(".top").before(said);
  document.addEventListener("lepidos:fresh", () => said.remove(), { once: true });
  // a form of this page may have been sent before, from the page as it came: this is another
  for (const field of document.querySelectorAll("form input[type=hidden][name=key]")) field.value = newKey();
}

if (document.body.dataset.keptAt) sayKept(Number(document.body.dataset.keptAt));
const place = document.querySelector("[data-kept-said]");
if ("serviceWorker" in navigator) {
  navigator.serviceWorker.register("/worker.js").then(() => {
    setTimeout(keep, FIRST_MS);
    document.addEventListener("lepidos:fresh", keep);
    if (place) countKept(place);
  }, () => { if (place) place.textContent = "This browser keeps no pages here: it does not trust this address yet."; });
} else if (place) {
  place.textContent = "This device keeps no pages: they came over a plain network address. See Who is aboard.";
}
