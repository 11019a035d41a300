"""What a command of `lepidos calc` found, as a person reads it; `--json` is for programs."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from lepidos.core.units import format_mass
from lepidos.stations.guide.planner import Planned

# a unit as names of figures end in it, and as it is written; the longest first
UNITS = {
    "_w_per_m2_k": "W/(m²·K)", "_w_per_k": "W/K", "_days": "days", "_hours": "h", "_min": "min",
    "_cm": "cm", "_mm": "mm", "_kg": "kg", "_c": "°C", "_m": "m",
}  # fmt: skip
INDENT = "  "


def told(found: Mapping[str, Any]) -> str:
    """A result in lines: a name, its figure and its unit; several alike as a table.

    >>> told({"round_kg": 2.91, "over": False, "target_c": 4.0})
    'Round: 2.91 kg\\nOver: no\\nTarget: 4 °C'
    """
    return "\n".join(_lines(found))


def _lines(found: Mapping[str, Any], indent: str = "") -> Iterator[str]:
    if "value_kg" in found:
        yield f"{indent}{_estimate(found)}"
        found = {key: value for key, value in found.items() if key not in _OF_ESTIMATE}
    if found.keys() >= {"value", "unit"}:
        yield f"{indent}{found['value']:.6g} {found['unit']}"
        found = {key: value for key, value in found.items() if key not in ("value", "unit")}
    for key, value in found.items():
        name, unit = _named(key)
        if value in ([], {}, ""):
            continue
        if isinstance(value, Mapping) and value and all(map(_is_row, value.values())):
            yield f"{indent}{name}:"
            yield from _table([{"": str(one)} | dict(row) for one, row in value.items()], indent)
        elif isinstance(value, Mapping):
            yield f"{indent}{name}:"
            yield from _lines(value, indent + INDENT)
        elif isinstance(value, list) and value and all(map(_is_row, value)):
            yield f"{indent}{name}:"
            yield from _table(value, indent)
        else:
            yield f"{indent}{name}: {_figure(value, unit)}"


_OF_ESTIMATE = ("value_kg", "low_kg", "high_kg", "level")


def _estimate(found: Mapping[str, Any]) -> str:
    value, low, high = (format_mass(found[key], "metric") for key in _OF_ESTIMATE[:3])
    return f"{value} ({low} to {high} in {found['level'] * 100:.0f} of 100)"


def _is_row(value: object) -> bool:
    return isinstance(value, Mapping)


def _named(key: str) -> tuple[str, str]:
    """A figure's name in words, and its unit."""
    for end, unit in UNITS.items():
        if key == end[1:]:
            return ("Weight" if unit == "kg" else unit), unit
        if key.endswith(end):
            key, unit_of = key.removesuffix(end), unit
            break
    else:
        unit_of = ""
    words = key.replace("_", " ")
    return words[:1].upper() + words[1:], unit_of


def _figure(value: object, unit: str) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if value is None:
        return "–"
    if value == "memory":
        return "from memory"
    if isinstance(value, float) and unit == "kg":
        return format_mass(value, "metric")
    if isinstance(value, Sequence) and not isinstance(value, str):
        return ", ".join(_figure(one, unit) for one in value)
    text = f"{value:.4g}" if isinstance(value, float) else str(value)
    return f"{text} {unit}" if unit and isinstance(value, int | float) else text


def _table(rows: Sequence[Mapping[str, Any]], indent: str) -> Iterator[str]:
    """Columns as wide as what stands in them; long texts are left to `--json`."""
    flat = [_flat(row) for row in rows]
    names = list(dict.fromkeys(name for row in flat for name in row))
    table = [names, *([row.get(name, "") for name in names] for row in flat)]
    wide = [max(len(line[at]) for line in table) for at in range(len(names))]
    for line in table:
        cells = (cell.ljust(width) for cell, width in zip(line, wide, strict=True))
        yield (indent + INDENT + "  ".join(cells)).rstrip()


def _flat(row: Mapping[str, Any]) -> dict[str, str]:
    if "value_kg" in row:
        rest = {key: value for key, value in row.items() if key == ""}
        return {**rest, "about": _estimate(row)}
    found = {}
    for key, value in row.items():
        name, unit = _named(key) if key else ("", "")
        found[name] = _figure(value, unit)
    return found


def plan_told(planned: Planned) -> str:
    """A plan as it is told at the board: what to do in order, with its reason, tool and care."""
    guide, cut = planned.guide, planned.cut
    name = planned.species.name
    purpose = guide.methods.purposes[cut.purpose].text
    lines = [
        f"{name[:1].upper()}{name[1:]}, {planned.fish.length_m * 100:.0f} cm, "
        f"{format_mass(planned.fish.round_kg, 'metric')}, {purpose}, skin {cut.skin}: "
        f"{len(cut.steps)} steps, {cut.minutes:.0f} min",
        "",
    ]
    if planned.better_whole:
        lines.append("Its fillets would be thin: it is better whole.")
    for number, (step, tool) in enumerate(zip(cut.steps, planned.tools, strict=True), 1):
        title = step.title if step.title.endswith("?") else f"{step.title}."
        lines.append(f"{number:2}. {title} With: {tool.tool}.")
        lines.append(f"    {step.why[:1].upper()}{step.why[1:]}.")
        if step.feel:
            lines.append(f"    You feel: {step.feel}.")
        if step.wrong:
            lines.append(f"    If {step.wrong}: {step.rescue}.")
        for key in planned.cautions.get(step.key, ()):
            caution = guide.cautions[key]
            lines.append(f"    Care. {caution.text} {caution.decides}")
    plan = guide.plan_of(planned.species)
    lines += ["", "Piece forecast"]
    rows = []
    for slot in cut.slots:
        called = plan.call(guide.pieces[slot.piece].name, slot.side)
        usual = planned.expected.get(slot.key)
        about = (
            f"{format_mass(usual.value, 'metric')} "
            f"({format_mass(usual.low, 'metric')} to {format_mass(usual.high, 'metric')})"
            if usual
            else "–"
        )
        rows.append({"piece": called, "about": about})
    lines += _table(rows, "")
    return "\n".join(lines)
