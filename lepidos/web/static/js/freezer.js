// The freezer with the hands: bags that are in hand, one dragged to another place, bags counted, a label scanned.
import { newKey, readPhoto } from "./api.js";
import { letDrag } from "./drag.js";

const hand = document.getElementById("hand");

function ticked() {
  return document.querySelectorAll('input[name="codes"][form="hand"]:checked');
}

function showHand() {
  const number = ticked().length;
  hand.querySelector("[data-in-hand]").textContent = `${number} bag${number === 1 ? "" : "s"} in hand.`;
}

if (hand) {
  document.addEventListener("change", (event) => event.target.form === hand && showHand());
  hand.addEventListener("reset", () => setTimeout(showHand));
  letDrag({
    source: (event) => event.target.closest(".bag-block"),
    target(over, source) {
      const place = over.closest("[data-place]");
      return place && !place.contains(source) ? place : null;
    },
    dropped(source, over) {
      const box = source.querySelector("input");
      if (!box.checked) for (const other of ticked()) other.checked = false; // what was not in hand goes alone
      box.checked = true;
      hand.elements.key.value = newKey();
      hand.requestSubmit(over.querySelector(".put-here"));
    },
  });
  showHand();
}

// After a bag a hand scanner reads a place: it types where the page has its focus, and the page stays where it is.
document.querySelector("[data-scan-here]")?.focus({ preventScroll: true });

// Counting: a scanner types a code and Enter; the bag is ticked, or stands with those that are not in the list.
const counting = document.querySelector("[data-count]");
if (counting) {
  const typed = document.getElementById("scanned");
  const boxes = [...counting.querySelectorAll('input[name="codes"]')];
  const said = counting.querySelector("[data-counted]");
  const tell = (text = "") => {
    said.textContent = `${text}${boxes.filter((box) => box.checked).length} of ${boxes.length} seen`;
  };
  counting.addEventListener("change", () => tell());
  typed.addEventListener("keydown", (event) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    const code = typed.value.trim().toUpperCase().split("/").pop().replace(/[^0-9A-Z]/g, "");
    typed.value = "";
    if (!code) return;
    const box = boxes.find((one) => one.value === code);
    if (box) box.checked = true;
    else if (!counting.elements.more.value.includes(code)) counting.elements.more.value += ` ${code}`;
    tell(box ? `${code} is here. ` : `${code} should not be here. `);
  });
  tell();
}

// The camera, where the page is a secure context: pictures go to the app until a label is read.
const LOOK_MS = 700;
const WIDE_PX = 800;
const scan = document.querySelector("[data-scan]");
if (scan && window.isSecureContext && navigator.mediaDevices) {
  const [start, view, said] = ["start", "view", "said"].map((part) => scan.querySelector(`[data-scan-${part}]`));
  start.hidden = false;
  start.addEventListener("click", async () => {
    try {
      view.srcObject = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } });
    } catch {
      said.hidden = false;
      said.textContent = "The camera is not free, or not allowed here. A photo or the code works too.";
      return;
    }
    start.hidden = true;
    view.hidden = false;
    await view.play();
    look(view, said);
  });
}

async function look(view, said) {
  const canvas = document.createElement("canvas");
  const scale = Math.min(1, WIDE_PX / (view.videoWidth || WIDE_PX));
  canvas.width = view.videoWidth * scale;
  canvas.height = view.videoHeight * scale;
  canvas.getContext("2d").drawImage(view, 0, 0, canvas.width, canvas.height);
  const picture = await new Promise((done) => canvas.toBlob(done, "image/jpeg", 0.8));
  const found = await readPhoto(picture);
  if (found.code) {
    for (const track of view.srcObject.getTracks()) track.stop();
    location.assign(`/b/${found.code}`);
    return;
  }
  said.hidden = false;
  said.textContent = found.said;
  setTimeout(() => look(view, said), LOOK_MS);
}
