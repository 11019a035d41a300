// What the app says after something was done, with the way back; and what is wrong, at its field.
import { newKey } from "./api.js";

const hidden = ([name, value]) => Object.assign(document.createElement("input"), { type: "hidden", name, value });

/** A form with one button that undoes what was just done. */
export function undoForm(kind, id) {
  const form = Object.assign(document.createElement("form"), { method: "post", action: "/undo" });
  const fields = { key: newKey(), kind, id, back: location.pathname + location.search };
  form.dataset.once = "";
  form.append(...Object.entries(fields).map(hidden));
  const button = Object.assign(document.createElement("button"), { className: "btn", textContent: "Undo" });
  button.dataset.key = "z";
  form.append(button);
  return form;
}

/** Say a sentence in a box; `kind` is "", "asked" or "refused". The new element. */
export function sayIn(box, text, kind, undo) {
  const said = Object.assign(document.createElement("div"), { className: `said ${kind}` });
  said.setAttribute("role", kind === "refused" ? "alert" : "status");
  said.append(Object.assign(document.createElement("p"), { textContent: text }));
  if (undo) said.append(undoForm(undo.kind, undo.id));
  box.replaceChildren(said);
  // what the page said when it came is over
  for (const old of document.querySelectorAll(".main > .said")) old.remove();
  return said;
}

/** What was wrong stands at its field, and what was typed in it again. */
export function markField(input, typed, detail) {
  unmarkFields(input.form);
  const id = `problem-${input.id}`;
  const note = Object.assign(document.createElement("p"), { className: "field-problem", id, textContent: detail });
  input.value = typed;
  input.setAttribute("aria-invalid", "true");
  input.setAttribute("aria-describedby", id);
  input.after(note);
  input.closest("details")?.setAttribute("open", "");
  input.focus();
}

export function unmarkFields(form) {
  for (const old of form.querySelectorAll(".field-problem")) old.remove();
  for (const old of form.querySelectorAll("[aria-invalid]")) old.removeAttribute("aria-invalid");
}

/** Add hidden fields to a form. */
export function addHidden(form, fields) {
  form.append(...fields.map(hidden));
}

/** "2 on the way: cod 60, cod 71. Kept here until they arrive.", and why the app cannot take them, if it said so. */
export function waitingText(entries) {
  const said = entries.map((entry) => entry.said).join(", ");
  return `${entries.length} on the way: ${said}. Kept here until they arrive. ${entries[0]?.why || ""}`.trim();
}
