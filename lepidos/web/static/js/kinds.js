// A kind of fish that was not aboard when the page came is drawn, too: each fish on it is a `use` of its kind.
import { getJson } from "./api.js";
import { groupOf } from "./svg_parts.js";

const RETRY_MS = 3000;
let asking = false;

function missing() {
  const ids = [...document.querySelectorAll("use[href^='#fish-']")].map((use) => use.getAttribute("href").slice(1));
  return [...new Set(ids)].filter((id) => !document.getElementById(id));
}

async function draw() {
  const ids = missing();
  const kinds = document.querySelector("[data-kinds] defs");
  if (!ids.length || !kinds || asking) return;
  asking = true;
  const keys = ids.map((id) => encodeURIComponent(id.replace("fish-", "")));
  const found = await getJson(`/live/drawings?fish=${keys.join(",")}`, null);
  asking = false;
  for (const [key, text] of Object.entries(found ?? {})) kinds.append(groupOf(`fish-${key}`, text));
  if (!found) setTimeout(draw, RETRY_MS); // nobody answered
  else if (missing().some((id) => !ids.includes(id))) draw(); // more came meanwhile
}

document.addEventListener("lepidos:fresh", draw);
