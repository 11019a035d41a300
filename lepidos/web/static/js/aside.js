// On every page: what was set aside on this device, with the reason, and what a hand may do about it.
"use strict";
(() => {
  const box = document.getElementById("set-aside");
  const make = (tag, text, more = {}) => Object.assign(document.createElement(tag), { textContent: text, ...more });

  // Where an entry is corrected: the deck of its trip, or the bench of its fish.
  const place = (entry) => (entry.group.startsWith("fish:") ? `/fish/${entry.group.slice(5)}` : `/trips/${entry.group}/deck`);

  const button = (text, entry, press) => {
    const one = make("button", text, { type: "button", className: "btn" });
    one.append(make("span", `: ${entry.said}`, { className: "visually-hidden" }));
    one.addEventListener("click", press);
    return one;
  };

  const row = (entry) => {
    const line = make("li", "");
    const when = new Date(entry.at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
    line.append(make("strong", `${entry.said}, ${when}: `), make("span", entry.problem.map((p) => p[1]).join(" ")));
    line.append(button("Send again", entry, () => window.lepidos.queue.again(entry.key)));
    if (location.pathname !== place(entry)) line.append(make("a", "Correct", { className: "btn", href: place(entry) }));
    line.append(button("Drop", entry, () => window.lepidos.queue.forget(entry.key)));
    return line;
  };

  const show = () => {
    const entries = window.lepidos.queue.refused();
    box.hidden = !entries.length;
    box.querySelector("ul").replaceChildren(...entries.map(row));
  };
  document.addEventListener("lepidos:queue", show);
  document.addEventListener("lepidos:refused", show);
  show();
})();
