// The elements to look at for every way in which words are shown: of a hundred rows alike, one.
// A way is the colours and letters of the words and all that lies under them. What lies over other
// things is looked at each time: what is under it need not be around it.
() => {
  const OVER = ["absolute", "fixed", "sticky"];
  const seen = new Set();
  const chosen = [];
  const says = (e) =>
    e.matches("input, select, textarea")
    || [...e.childNodes].some((one) => one.nodeType === Node.TEXT_NODE && one.textContent.trim());
  const look = (e, above, lies) => {
    const style = getComputedStyle(e);
    if (style.display === "none") return;
    const over = lies || OVER.includes(style.position);
    const { backgroundColor, backgroundImage, opacity, filter, mixBlendMode } = style;
    const under = [above, backgroundColor, backgroundImage, opacity, filter, mixBlendMode].join();
    if (says(e)) {
      const { color, fill, fontSize, fontWeight, textShadow, visibility } = style;
      const way = [under, e.tagName, e.disabled, color, fill, fontSize, fontWeight, textShadow, visibility].join();
      if (over || !seen.has(way)) chosen.push(e);
      seen.add(way);
    }
    for (const child of e.children) look(child, under, over);
  };
  look(document.body, "", false);
  return chosen;
};
