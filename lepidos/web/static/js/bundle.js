// A bundle on its way in: how far it is; the page is loaded again when there is something to say.
import { getJson } from "./api.js";

const EVERY_MS = 500;
const box = document.querySelector("[data-bundle]");
const bar = box?.querySelector("progress");

async function look() {
  const now = await getJson("/bundle/state", null);
  if (now && now.state !== box.dataset.bundle) {
    location.reload();
    return;
  }
  if (now) {
    bar.value = now.done;
    box.querySelector("[data-bundle-table]").textContent = (now.table || "the file").replaceAll("_", " ");
  }
  setTimeout(look, EVERY_MS);
}

if (bar) setTimeout(look, EVERY_MS);
