// Keys pressed while a page's scripts are still on their way: a crew that types ahead loses none of them.
// Read first, and no module, so that it is there before anything can be touched.
(() => {
  const held = [];
  const typedIn = new Set();
  const isField = (target) => target.matches("input:not([type=radio], [type=checkbox]), textarea, select");

  // Return in a field sends its form before a script can say what it means there; a single letter is a key. What
  // comes after one that is held is held as well: it is meant for where that leads.
  function isHeld({ key, target }) {
    const isLetter = key.length === 1;
    if (held.length) return isLetter || key === "Enter" || key === "Backspace";
    if (isField(target)) return (key === "Enter" || key === "ArrowDown") && target.closest("[x-data]");
    return isLetter && key !== " ";
  }
  function hold(event) {
    if (event.ctrlKey || event.metaKey || event.altKey || !event.target.matches || !isHeld(event)) return;
    event.preventDefault();
    event.stopPropagation();
    held.push({ key: event.key, target: event.target });
  }
  const note = (event) => typedIn.add(event.target);

  function press(key, at) {
    const again = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true });
    if (!at.dispatchEvent(again) || !isField(at)) return;
    if (key === "Enter") at.form?.requestSubmit();
    else if (key === "Backspace") document.execCommand("delete");
    else if (key.length === 1) document.execCommand("insertText", false, key); // says "input", as a keyboard does
  }

  function go() {
    document.removeEventListener("keydown", hold, true);
    document.removeEventListener("input", note, true);
    for (const field of typedIn) field.dispatchEvent(new Event("input", { bubbles: true }));
    let hasMoved = false;
    for (const { key, target } of held) {
      const before = document.activeElement;
      press(key, hasMoved ? before : target);
      hasMoved ||= document.activeElement !== before;
    }
    typedIn.clear();
    held.length = 0;
  }
  document.addEventListener("keydown", hold, true);
  document.addEventListener("input", note, true);
  // all of a page's scripts are deferred: when the page is loaded they have run
  document.addEventListener("alpine:initialized", go, { once: true });
  addEventListener("load", go, { once: true });
})();
