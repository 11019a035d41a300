// A bag or a piece is dragged into another bag, to another party, or out into a bag of its own. It does what two
// touches do, in one pull.
import { newKey } from "./api.js";
import { letDrag } from "./drag.js";

const form = document.getElementById("by-hand");
const kinOf = (element) => element.dataset.kin;
const bags = () => document.querySelectorAll(".columns [data-parts]");

// Where it goes: [address, field], or null where nothing would change.
function aim(source, over) {
  if (over.contains(source) && source.matches(".columns *")) return null;
  if (over.matches(".may-take")) return ["lay", over.dataset.parts];
  if (over.dataset.party && over.dataset.party !== source.dataset.of) return ["give", over.dataset.party];
  return source.matches(".in-it *") && source.dataset.several ? ["lay", "own"] : null;
}

letDrag({
  source: (event) => (event.target.closest("button, .move") ? null : event.target.closest("[data-parts]")),
  target: (over) => over.closest(".may-take") || over.closest("[data-party]"),
  began(source) {
    for (const bag of bags()) bag.classList.toggle("may-take", bag !== source && kinOf(bag) === kinOf(source));
  },
  ended() {
    for (const bag of bags()) bag.classList.remove("may-take");
  },
  dropped(source, over) {
    const to = aim(source, over);
    if (!to) return;
    form.action = form.dataset.to + to[0];
    form.elements.key.value = newKey();
    form.elements.to.value = to[1];
    for (const part of source.dataset.parts.split(" ")) {
      const field = document.createElement("input");
      Object.assign(field, { type: "hidden", name: "part", value: part });
      form.append(field);
    }
    form.requestSubmit();
  },
});
