// What every page needs.
import "./keys.js";
import "./once.js";
import "./first_aid.js";
import "./live.js";
import "./place.js";
import "./set_aside.js";
import "./svg_text.js";

// What was just done is told once: a reload later would offer to undo it after other things were done.
const address = new URL(location.href);
if (address.searchParams.has("done")) {
  address.searchParams.delete("done");
  history.replaceState(history.state, "", address);
}
