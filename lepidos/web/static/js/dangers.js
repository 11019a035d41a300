// What must not be eaten, found by its names among the kinds on deck: read from its own page once somebody looks for
// a name, and from what is kept of it when nothing answers.
import { fetchKeptPage } from "./api.js";

const PAGE = "/guide/do-not-eat";
const WARN_LETTERS = 3, MAX_WARNED = 3;

// as `folded` of the guide's names has them
const STROKED = { "ø": "o", "ł": "l", "ı": "i", "đ": "d", "æ": "ae", "œ": "oe" };
const withoutAccents = (text) =>
  text.replace(/[øłıđæœ]/g, (letter) => STROKED[letter]).normalize("NFD").replace(/\p{M}/gu, "");

let reading = null;

async function read() {
  const page = await fetchKeptPage(PAGE);
  const kinds = [...(page?.querySelectorAll("[data-names]") ?? [])];
  if (!kinds.length) reading = null; // nobody answered: asked again with the next letter
  return kinds.map((one) => ({ ...one.dataset, id: one.id, names: one.dataset.names.split("|") }));
}

// Those that begin so; where no kind is called so, those with such a word in their name.
function fitting(kinds, wanted, isKind) {
  const any = (one, fits) => one.names.some(fits);
  const begins = kinds.filter((one) => any(one, (name) => name.startsWith(wanted)));
  const holds = isKind ? [] : kinds.filter((one) => any(one, (name) => name.includes(` ${wanted}`)));
  return [...new Set([...begins, ...holds])].slice(0, MAX_WARNED);
}

function link({ id, called, danger }) {
  const found = document.createElement("a");
  found.className = "caution danger-only";
  found.href = `${PAGE}#${id}`;
  const name = document.createElement("strong");
  name.textContent = called;
  found.append(name, `: ${danger}`);
  return found;
}

/** Shows in `box` what is known under the name that is being typed. */
export async function warnOf(box, typed, isKind) {
  const wanted = withoutAccents(typed);
  box.dataset.wanted = wanted;
  if (wanted.length < WARN_LETTERS) {
    box.replaceChildren();
    return;
  }
  reading ||= read();
  const kinds = await reading;
  // another letter was typed meanwhile
  if (box.dataset.wanted === wanted) box.replaceChildren(...fitting(kinds, wanted, isKind).map(link));
}
