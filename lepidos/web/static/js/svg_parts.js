// What the server draws comes as text, and is put into a page that is open.
const SVG = "http://www.w3.org/2000/svg";

/** The elements that a text of SVG holds, ready to be put into this page. */
export function partsOf(text) {
  const page = new DOMParser().parseFromString(`<svg xmlns="${SVG}">${text}</svg>`, "image/svg+xml");
  return [...page.documentElement.childNodes].map((part) => document.adoptNode(part));
}

/** A group with this id. */
export function groupOf(id, text) {
  const group = document.createElementNS(SVG, "g");
  group.id = id;
  group.replaceChildren(...partsOf(text));
  return group;
}
