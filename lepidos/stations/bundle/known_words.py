"""Words that rows may use, by column: keys of this guide, and what the stations' own forms offer.

An unknown word would stop the page that has to show it. What a page leaves out when
it does not know it (a finding, a step of an older plan) is not among these.
"""

from collections.abc import Collection
from functools import cache
from zoneinfo import available_timezones

from lepidos.core.catch.handling import STATES
from lepidos.core.errors import BadInput
from lepidos.core.fish.lengths import LENGTHS
from lepidos.core.pack.labels import read_code
from lepidos.guide.freezing import usual_freezing
from lepidos.guide.knife_zones import knife_zones
from lepidos.guide.library import Guide
from lepidos.stations.freezer.moves import REASONS
from lepidos.stations.pack.receipts import SHARED_BY
from lepidos.stations.pack.sharing import WAYS
from lepidos.stations.table.load import HOW_KNOWN
from lepidos.stations.trips.trips import NAMELESS
from lepidos.store.bundle.log_queries import words_in
from lepidos.store.bundle.whole_log import LogFile

Words = Collection[str]


@cache
def _of_app() -> dict[tuple[str, str], Words]:
    freezing = usual_freezing()
    return {
        ("trip", "kind"): {"boat", "shore"},
        ("trip", "origin"): set(NAMELESS),
        ("trip", "timezone"): available_timezones(),
        ("measurement", "quantity"): {"length", "whole", "gutted", "headed", "shared"},
        ("weighing", "method"): set(HOW_KNOWN),
        ("board", "hand"): {"", "left", "right"},
        ("place_said", "cooling"): set(freezing.cooling),
        ("place_said", "kind"): set(freezing.kinds),
        ("bag", "pack"): set(freezing.packs),
        ("meal", "thaw"): set(freezing.thawing),
        ("move", "why"): {"", *REASONS},
        ("bag_now", "why"): {"", *REASONS},
        ("cost", "shared_by"): set(SHARED_BY),
        ("share_rule", "how"): set(WAYS),
        ("scraping", "zone"): {zone.key for zone in knife_zones().zones},
        ("scraping", "side"): {"A", "B"},
        ("trial_fish", "x_side"): {"A", "B"},
        ("trial_fish", "first_side"): {"A", "B"},
        ("rule_card", "length_type"): set(LENGTHS),
        ("own_guide", "kind"): {"species", "plan"},
    }


def _of_guide(guide: Guide, own: Words) -> dict[tuple[str, str], Words]:
    kinds, pieces = {*guide.species, *own}, set(guide.pieces)
    purposes = {"", *guide.methods.purposes}
    return {
        ("fish", "species"): kinds,
        ("bag", "species"): kinds,
        ("forecast", "species"): kinds,
        ("wish", "species"): {"", *kinds},
        ("trial", "species"): {"", *kinds},
        ("rule_card", "species"): kinds,
        ("weighing", "piece"): pieces,
        ("bag", "piece"): pieces,
        ("fate", "piece"): pieces,
        ("sight", "piece"): {"", *pieces},
        ("bag", "purpose"): purposes,
        ("wish", "purpose"): purposes,
        ("meal", "purpose"): purposes,
    }


def check_words(guide: Guide, file: LogFile) -> None:
    """Raise BadInput for the first word that is not known here. `file` has today's schema."""
    own = set(words_in(file, "own_guide", "key", "species"))
    for (table, column), known in (_of_app() | _of_guide(guide, own)).items():
        for word in words_in(file, table, column):
            if word not in known:
                raise BadInput(_sentence(table, column, str(word)[:40]))
    if unknown := [name for name in words_in(file, "fact", "name", "state") if name not in STATES]:
        raise BadInput(_sentence("fact", "name", unknown[0][:40]))
    for code in words_in(file, "bag", "code"):
        try:
            read_code(str(code))
        except BadInput as error:
            raise BadInput(f"data/bag.csv: “{str(code)[:40]}” is not a bag code") from error


def _sentence(table: str, column: str, word: str) -> str:
    if column == "species":
        return (
            f"data/{table}.csv: This guide has no fish “{word}”, and the bundle brings none along"
        )
    if column == "piece":
        return f"data/{table}.csv: there is no piece “{word}”"
    if column == "timezone":
        return f"data/{table}.csv: “{word}” is not a time zone"
    return f"data/{table}.csv, {column}: “{word}” is not known here"
