// A bench without a scale: what was taken counts as the plan expects it, or as the hand judges it. Which of the two
// a device has is remembered on it.
const YEAR_S = 31_536_000;

const frame = () => document.querySelector(".at-bench");

/** As was chosen on this device: a page that it kept may be older than that. */
export function isWithoutScale() {
  const [, chosen] = document.cookie.match(/(?:^|; )weighs=(eye|scale)/) || [];
  if (chosen) frame().classList.toggle("without-scale", chosen === "eye");
  return frame().classList.contains("without-scale");
}

/** Remembers whether this device judges by eye, and shows the bench so. */
export function rememberScale(eye) {
  frame().classList.toggle("without-scale", eye);
  document.cookie = `weighs=${eye ? "eye" : "scale"}; path=/; max-age=${YEAR_S}; samesite=strict`;
}

const measures = () => [...document.querySelectorAll("[data-looks]")].map(({ dataset }) => dataset);

/** What a text such as "2 palms" says, as the fields of a piece that was taken; null for a weight. */
export function fieldsOf(typed) {
  const [, times, word] = typed.match(/^(\d+(?:[.,]\d+)?)\s+(\D+)$/) || [];
  const one = word && measures().find(({ name, plural }) => [name, plural].includes(word.trim()));
  return one ? [["looks_like", one.looks], ["times", times.replace(",", ".")]] : null;
}

/** One more of a measure than the text says; one of it where it says something else. */
export function more(typed, { looks, name, plural }) {
  const said = fieldsOf(typed.trim());
  const times = said && said[0][1] === looks ? Number(said[1][1]) + 1 : 1;
  return `${times} ${times === 1 ? name : plural}`;
}

/** A piece that was taken and not weighed: what is said of it, and the fields that go with its slot. */
export const takenAs = (typed) => ({ said: typed || "taken", fields: typed ? fieldsOf(typed) : [] });
