// Whether deck and bench are one screen with doors: on a phone, upright or on its side, and on an upright tablet. The
// same condition stands in table_small.css and deck_small.css.
export const small = window.matchMedia(
  "(max-width: 820px) and (min-height: 501px), (min-width: 640px) and (min-height: 330px) and (max-height: 500px)",
);
