// What every page needs.
import "./keys.js";
import "./once.js";
import "./first_aid.js";
import "./live.js";
import "./set_aside.js";
import "./svg_text.js";
