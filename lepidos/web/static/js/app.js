// What every page needs.
import "./own_address.js";
import "./keys.js";
import "./once.js";
import "./first_aid.js";
import "./kept.js";
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

// A new trip is in the device's time zone, unless the app was started with one of its own.
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
if (zone) document.cookie = `zone=${encodeURIComponent(zone)}; path=/; max-age=31536000; samesite=strict`;
