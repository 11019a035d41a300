// What a page must hold, checked where it is shown. Gives a list of "check: selector: detail".
(rules) => {
  const found = [];
  const within = (e) => e.closest("[inert], dialog:not([open])");
  const shown = (e) => e.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true }) && !within(e);
  const name = (e) => {
    if (e.id) return `#${e.id}`;
    const own = e.tagName.toLowerCase() + [...e.classList].map((c) => `.${c}`).join("");
    const box = e.parentElement?.closest("[id], [class]");
    return box ? `${box.id ? `#${box.id}` : `.${box.classList[0] || box.tagName}`} ${own}` : own;
  };
  const tell = (check, e, detail) => found.push(`${check}: ${name(e)}: ${detail} "${e.textContent.trim().slice(0, 30)}"`);
  const clips = (e) => ["hidden", "clip", "auto", "scroll"].includes(getComputedStyle(e).overflowX);
  const boxOf = (e) => {
    const label = e.matches("input.btn-check") ? document.querySelector(`label[for="${CSS.escape(e.id)}"]`) : null;
    const tick = e.closest(".tick-row");
    return (label || tick || e).getBoundingClientRect();
  };
  const SELECTOR = "a[href], button, summary, input:not([type=hidden]), select, textarea";
  const targets = [...document.querySelectorAll(SELECTOR)].filter(
    (e) => !e.closest(".default, .skip, .visually-hidden") && !e.classList.contains("default") && !e.disabled
      && !e.classList.contains("skip") && (shown(e) || e.matches("input.btn-check")) && boxOf(e).width > 0);
  // a link within a sentence is as high as its line
  const inline = (e) => e.tagName === "A" && getComputedStyle(e).display === "inline";
  for (const e of targets) {
    const box = boxOf(e);
    const least = inline(e) || e.closest(".why") ? 16 : rules.target;
    if (box.width < Math.min(least, rules.target) - 0.5 && !inline(e)) tell("target", e, `${Math.round(box.width)} px wide`);
    if (box.height < least - 0.5) tell("target", e, `${Math.round(box.height)} px high`);
  }
  if (rules.apart) {
    const touched = (e) => {
      const box = boxOf(e);
      const over = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2);
      return over && (e.contains(over) || over.contains(e) || over.htmlFor === e.id);
    };
    const boxes = targets.filter((e) => !inline(e) && touched(e)).map((e) => ({ e, box: boxOf(e) }));
    boxes.forEach((one, at) => {
      for (const other of boxes.slice(at + 1)) {
        if (one.e.closest("[data-doors], .rail, .seg") && other.e.closest("[data-doors], .rail, .seg")) continue;
        if (one.e.closest(".more-sheet") || other.e.closest(".more-sheet")) continue;
        const across = Math.max(other.box.left - one.box.right, one.box.left - other.box.right);
        const down = Math.max(other.box.top - one.box.bottom, one.box.top - other.box.bottom);
        const far = Math.max(across, down);
        if (far > -8 && far < rules.apart - 0.6) tell("apart", one.e, `${far.toFixed(1)} px from ${name(other.e)}`);
      }
    });
  }
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  const told = new Set();
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const e = node.parentElement;
    if (!node.textContent.trim() || e.closest("script, style, defs, .visually-hidden, option, datalist") || !shown(e)) continue;
    const svg = e.closest("svg");
    const scale = svg && e.getScreenCTM ? Math.abs(e.getScreenCTM().a) : 1;
    const px = parseFloat(getComputedStyle(e).fontSize) * scale;
    const key = name(e) + Math.round(px);
    const box = e.getBoundingClientRect();
    if (px < rules.text - 0.2 && !told.has(key) && box.width > 1 && !e.closest(".skip")) {
      told.add(key);
      tell("text", e, `${px.toFixed(1)} px`);
    }
  }
  const wide = document.documentElement.scrollWidth - window.innerWidth;
  if (wide > 0) found.push(`overflow: page: ${wide} px too wide`);
  for (const e of document.body.querySelectorAll("*")) {
    if (e.closest("svg") || !shown(e)) continue;
    const style = getComputedStyle(e);
    const box = e.getBoundingClientRect();
    if (box.width > 1 && box.right > window.innerWidth + 1 && style.position !== "fixed") {
      let held = false;
      for (let up = e.parentElement; up; up = up.parentElement) held ||= clips(up);
      if (!held) tell("overflow", e, `${Math.round(box.right - window.innerWidth)} px out`);
    }
    const cut = ["hidden", "clip"].includes(style.overflowY) && e.scrollHeight > e.clientHeight + 2;
    if (cut && e.clientHeight > 4 && e.textContent.trim() && !e.classList.contains("visually-hidden")
      && !["BODY", "HTML"].includes(e.tagName)) tell("clipped", e, `${e.scrollHeight - e.clientHeight} px`);
    if (rules.still && ["auto", "scroll"].includes(style.overflowY) && e.matches(rules.still)
      && e.scrollHeight > e.clientHeight + 1) tell("scrolls", e, `${e.scrollHeight - e.clientHeight} px`);
  }
  if (rules.still && document.documentElement.scrollHeight > window.innerHeight + 1) {
    found.push(`scrolls: page: ${document.documentElement.scrollHeight - window.innerHeight} px`);
  }
  if (rules.focus) {
    const before = [window.scrollX, window.scrollY];
    for (const e of targets.slice(0, 80)) {
      e.focus();
      if (document.activeElement !== e) continue;
      (document.querySelector(`label[for="${CSS.escape(e.id || "-")}"].btn`) || e).scrollIntoView({ block: "nearest" });
      const box = boxOf(e);
      const at = [box.left + box.width / 2, box.top + box.height / 2];
      const over = document.elementFromPoint(...at);
      if (!over) tell("focus", e, "outside the window");
      else if (!e.contains(over) && !over.contains(e) && !(over.htmlFor === e.id)
        && getComputedStyle(over).position !== "static" && !over.closest(".said")) tell("focus", e, `under ${name(over)}`);
    }
    document.activeElement?.blur?.();
    window.scrollTo(...before);
  }
  return found;
};
