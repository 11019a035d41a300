"""A fish as it is drawn everywhere, once for each species, kept."""

import time
from contextlib import suppress
from weakref import WeakKeyDictionary

from markupsafe import Markup, escape

from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.blade import blade_paths
from lepidos.core.fish.bodyplan import Step
from lepidos.core.fish.species import Species
from lepidos.exchange import svg
from lepidos.guide.library import Guide

Drawn = tuple[svg.Frame, str]

# A species' drawing never changes while the app runs, and costs some milliseconds.
_DRAWN: WeakKeyDictionary[Body, dict[tuple[bool, svg.Look], Drawn]] = WeakKeyDictionary()


def fish_svg(guide: Guide, species: Species, detail: bool = True) -> Markup:
    """A fish on its own, as wide as its box."""
    window, group = drawn(guide, species.key, detail)
    return Markup(  # noqa: S704 - made of numbers and class names only
        f'<svg class="fish" viewBox="{window.view_box}" role="img" '
        f'aria-label="{escape(species.name)}">{group}</svg>'
    )


def window(guide: Guide, key: str) -> svg.Frame:
    """The window of a species' drawing, in drawing units."""
    return drawn(guide, key, True)[0]


def symbols(guide: Guide, keys: set[str]) -> Markup:
    """Each species once, for `<use>`: a slab of sixty fish stays small."""
    parts = []
    for key in sorted(keys):
        parts.append(f'<g id="fish-{key}">{drawn(guide, key, True)[1]}</g>')
    inside = f"<defs>{''.join(parts)}</defs>"
    return Markup(f'<svg class="visually-hidden" aria-hidden="true" data-kinds>{inside}</svg>')  # noqa: S704


def draw_ahead(guide: Guide, pause_s: float = 0.0) -> None:
    """Draw every species while nobody waits, so that the guide's first page opens at once."""
    for key in tuple(guide.species):
        with suppress(KeyError):  # a species of the user's own may have gone meanwhile
            drawn(guide, key, True)
        time.sleep(pause_s)  # leaves the interpreter to whoever asks for a page


def view_boxes(guide: Guide, keys: set[str]) -> dict[str, str]:
    """The window of each species' drawing, for a picture of its own around a `<use>`."""
    return {key: drawn(guide, key, True)[0].view_box for key in keys}


def cut_path(guide: Guide, species: Species, step: Step | None) -> str:
    """The blade's ways of a step, "" of none."""
    if step is None:
        return ""
    paths = blade_paths(guide.body_of(species), species, guide.plan_of(species), step)
    return "".join(svg.path_of(path) for path in paths)


def loop(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in points) + "Z"


def drawn(guide: Guide, key: str, detail: bool, look: svg.Look = "alive") -> Drawn:
    """Window and group of a species; a flatfish's blind side lies the other way round."""
    species = guide.species[key]
    body = guide.body_of(species)
    kept = _DRAWN.setdefault(body, {})
    if (detail, look) not in kept:
        group = svg.fish_group(species, body, detail, look)
        window = svg.frame(body, svg.is_turned(species, look))
        flip = svg.flip(species, look)
        kept[detail, look] = (window, f'<g transform="{flip}">{group}</g>')
    return kept[detail, look]
