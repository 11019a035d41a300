"""A fish that the guide lacks is landed as the kind nearest to it, under a name of its own.

It becomes one of the crew's own kinds: its label, its yields and its rule cards are never those
of the nearest kind, and the next one of it is a touch.
"""

import re
from dataclasses import replace
from datetime import datetime
from itertools import count, product
from string import ascii_uppercase

from lepidos.core.errors import Refused
from lepidos.core.fish.species import Species
from lepidos.guide.do_not_eat import do_not_eat
from lepidos.guide.library import Guide
from lepidos.guide.nearest import name_of
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.deck.alike import land_alike
from lepidos.stations.deck.landing import add_fish, land_fish, landed_receipt
from lepidos.stations.deck.landing_check import LandFish
from lepidos.stations.guide.own_guide import follow_file, read_own
from lepidos.store.guide import ownguide
from lepidos.store.trips import trips

NAMELESS = "unknown fish"
MAX_LETTERS = 30
_WORDS = re.compile(r"[^\W_][\w '’.-]*")


def land(ctx: AppContext, key: str, order: LandFish) -> Receipt:
    """Land a fish or several alike, of the guide or `called` otherwise. Raises Refused, Unknown."""
    if order.count != 1 and order.called is None:
        return land_alike(ctx, key, order)
    if order.count != 1:
        raise Refused({"count": "The guide does not have this fish: land these one by one"})
    if order.longest_m is not None:
        raise Refused({"count": "Say how many there are"})
    return land_fish(ctx, key, order) if order.called is None else land_nearest(ctx, key, order)


def land_nearest(ctx: AppContext, key: str, order: LandFish) -> Receipt:
    """Land it as the kind nearest to it, a new one of the crew's own; both or neither.

    Raises Refused with the fields that cannot be, Unknown.
    """
    called = " ".join(str(order.called or "").split()) or NAMELESS
    if len(called) > MAX_LETTERS or not _WORDS.fullmatch(called):
        raise Refused({"called": f"A name of letters, at most {MAX_LETTERS}, or nothing"})
    near = ctx.guide.one(order.species)
    near = ctx.guide.one(near.nearest) if near.nearest else near
    name = name_of(called, near)
    known = next((one for one in ctx.guide.species.values() if one.name == name), None)
    own_key = known.key if known else _free_key(ctx.guide, called, near)

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        if known is None:
            toml = _text(called, near, _free_code(ctx.guide, called))
            try:
                read_own(ctx.guide, "species", own_key, toml)
            except ValueError as error:
                raise Refused({"called": str(error)}) from error
            ownguide.put(ctx.ids, at, "species", own_key, toml)
        landing = replace(order, species=own_key)
        fish, question = add_fish(ctx, trip, landing, at)
        question = " ".join(filter(None, (do_not_eat().warning(called), question)))
        return landed_receipt(ctx, trip, fish, question, order.system)

    try:
        return run_idempotent(ctx, key, "deck.land", order, do)
    finally:
        # refused or repeated: the app's guide is what the file says
        if known is None:
            follow_file(ctx, "species", own_key)


def _text(called: str, near: Species, code: str) -> str:
    return f'nearest = "{near.key}"\nname = "{name_of(called, near)}"\ncode = "{code}"\n'


def _free_key(guide: Guide, called: str, near: Species) -> str:
    slug = re.sub(r"[^a-z0-9]+", "_", called.lower()).strip("_") or "fish"
    wanted = f"{slug if slug[0].isalpha() else f'fish_{slug}'}_like_{near.key}"[:36]
    return next(
        key for n in count(1) if (key := wanted + (f"_{n}" if n > 1 else "")) not in guide.species
    )


def _free_code(guide: Guide, called: str) -> str:
    """A code that no fish has: of the name's letters where that goes."""
    taken = {one.code for one in guide.species.values()}
    letters = [c for c in called.upper() if c in ascii_uppercase] or ["X"]
    wished = [letters[0], *(letters[0] + c for c in letters[1:])]
    every = (a + b for a, b in product("X" + ascii_uppercase, ascii_uppercase))
    return next(code for code in (*wished, *every) if code not in taken)
