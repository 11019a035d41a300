// On every page: what was set aside on this device, with the reason, and what can be done about it.
import { queue } from "./device_queue.js";

const box = document.getElementById("set-aside");
const make = (tag, text, more = {}) => Object.assign(document.createElement(tag), { textContent: text, ...more });

// Where an entry is corrected: the deck of its trip, or the bench of its fish.
const placeOf = ({ group }) => (group.startsWith("fish:") ? `/fish/${group.slice(5)}` : `/trips/${group}/deck`);

function button(text, entry, press) {
  const made = make("button", text, { type: "button", className: "btn" });
  made.append(make("span", `: ${entry.said}`, { className: "visually-hidden" }));
  made.addEventListener("click", press);
  return made;
}

function row(entry) {
  const line = make("li", "");
  const when = new Date(entry.at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  const reason = entry.problem.map((p) => p[1]).join(" ");
  line.append(make("strong", `${entry.said}, ${when}: `), make("span", reason));
  line.append(button("Send again", entry, () => queue.sendAgain(entry.key)));
  if (location.pathname !== placeOf(entry)) {
    line.append(make("a", "Correct", { className: "btn", href: placeOf(entry) }));
  }
  line.append(button("Drop", entry, () => queue.forget(entry.key)));
  return line;
}

function show() {
  const entries = queue.refused();
  box.hidden = !entries.length;
  box.querySelector("ul").replaceChildren(...entries.map(row));
}

if (box) {
  document.addEventListener("lepidos:queue", show);
  document.addEventListener("lepidos:refused", show);
  show();
}
