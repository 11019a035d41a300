// While what was done at the bench waits for the server, the step that comes after it is shown all the same: the page
// brings every step that is still to be done. Spines that are not off yet are waited for.

const sectionOf = (template) => template.content.firstElementChild;

/**
 * Shows the first step that is neither on its way (`sent`, keys) nor taken (`taken`, slots). What lies before something
 * that is was passed over, but for spines.
 */
export function showStep(sent, taken) {
  const shown = document.querySelector("#bench-now > .now-step[data-step]");
  if (!shown) return;
  const isDone = ({ step, slots, holds }) =>
    holds === undefined && (sent.has(step) || (slots && slots.split(" ").every((slot) => taken.has(slot))));
  const isBegun = ({ step, slots }) => sent.has(step) || slots?.split(" ").some((slot) => taken.has(slot));
  const ahead = [...document.querySelectorAll("#bench-now > template[data-ahead]")].map(sectionOf);
  const reached = ahead.findLastIndex(({ dataset }) => isBegun(dataset));
  const isNext = ({ dataset }, at) => dataset.holds !== undefined || (at >= reached && !isDone(dataset));
  const next = ahead.find(isNext);
  if (!next || next.dataset.step === shown.dataset.step) return;
  const held = shown.contains(document.activeElement);
  const section = next.cloneNode(true);
  shown.replaceWith(section);
  if (held) section.querySelector("button")?.focus({ preventScroll: true });
}
