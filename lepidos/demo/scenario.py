"""Plays the invented day into an empty data file, through the same use cases as a person's."""

import tomllib
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from lepidos.core.catch.rule_cards import RuleCard
from lepidos.devices.stand_ins import simulated_logger
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.waters import ChooseWaters, choose_waters
from lepidos.stations.deck import handling, landing, landing_check, rule_cards
from lepidos.stations.freezer import moves, temperature
from lepidos.stations.freezer.places import AddPlace, SayPlace, add_place, say_place
from lepidos.stations.pack import label, pack, portioning, seal
from lepidos.stations.schedule import boards
from lepidos.stations.table import byproducts, findings, steps, weighing
from lepidos.stations.trips import trips

SCENARIO = Path(__file__).parent / "marram_lass.toml"
THICK, TAIL = 1.03, 0.93  # invented: what the demo's bags weighed, of what was foreseen
# name: set temperature [°C], litres, how it is cooled
PLACES = {
    "chest, top basket": (-22.0, 120.0, "still"),
    "chest, bottom": (-22.0, 200.0, "still"),
    "kitchen freezer": (-18.0, 60.0, "fan"),
}


def play(ctx: AppContext) -> None:
    """Two trips of the Marram Lass: one two weeks ago, one that is going on now."""
    now = ctx.clock()
    _Player(ctx, now).play(tomllib.loads(SCENARIO.read_text("utf-8")))


class _Player:
    def __init__(self, ctx: AppContext, now: datetime) -> None:
        self._ctx = ctx
        self._now = now
        self._keys = 0

    def play(self, scenario: dict[str, Any]) -> None:
        start = self._at(timedelta(days=20))
        choose_waters(start, self._key(), ChooseWaters(tuple(scenario["waters"])))
        places = {name: add_place(start, self._key(), AddPlace(name)).subject_id for name in PLACES}
        for name, (celsius, litres, cooling) in PLACES.items():
            inside = places["chest, bottom"] if name == "chest, top basket" else ""
            kind = "drawer" if inside else "freezer"
            said = SayPlace(places[name], celsius, litres, cooling, "metric", kind, inside)
            say_place(start, self._key(), said)
        today = start.clock().date()
        for card in scenario["cards"]:
            values = {k: v for k, v in card.items() if k != "checked_days_ago"}
            checked = today - timedelta(days=card["checked_days_ago"])
            written = RuleCard(**values, checked_on=checked)
            rule_cards.save_card(start, self._key(), rule_cards.SaveCard(written))
        for trip in scenario["trips"]:
            self._trip(trip, places)
        self._log(places["chest, bottom"])

    def _log(self, place_id: str) -> None:
        """The chest's logger: the door stood open once, the power was away one night."""
        if logger := simulated_logger(self._ctx.logger):
            logger.set_to(PLACES["chest, bottom"][0])
            logger.defrosts = False  # a chest
            logger.power_cut(11, ago_h=74)
            logger.door(25, ago_h=5)
            temperature.read_logger(self._ctx, self._key(), temperature.ReadLogger(place_id))

    def _trip(self, trip: dict[str, Any], places: dict[str, str]) -> None:
        ago = timedelta(days=trip["days_ago"])
        earliest = timedelta(minutes=max(f["minutes_ago"] for f in trip["fish"]) + 30)
        ctx = self._at(ago + earliest)
        zone = ZoneInfo(ctx.timezone)
        order = trips.StartTrip(
            trip["name"],
            trip["kind"],
            trip["harbour"],
            on_date=ctx.clock().astimezone(zone).date(),
            people=tuple(trip["people"]),
            parties=tuple(trip["parties"]),
            sea_c=trip["sea_c"],
            air_c=trip["air_c"],
            ice_kg=trip["ice_kg"],
        )
        trip_id = trips.start_trip(ctx, self._key(), order).subject_id
        view = trips.view_trip(ctx, trip_id)
        ids = {p.name: p.id for p in view.people} | {p.name: p.id for p in view.parties}
        for name in trip.get("cutters", ()):
            # boards open when the boat is on its way home
            early = self._at(ago + timedelta(minutes=trip["boards_open_minutes_ago"]))
            done = boards.add_board(early, self._key(), boards.AddBoard(trip_id, name))
            ids[f"board of {name}"] = done.subject_id
        for fish in trip["fish"]:
            self._fish(fish, trip_id, ago, ids, places)
        self._evening(trip, trip_id, ago, ids)

    def _fish(
        self,
        fish: dict[str, Any],
        trip_id: str,
        ago: timedelta,
        ids: dict[str, str],
        places: dict[str, str],
    ) -> None:
        landed = ago + timedelta(minutes=fish["minutes_ago"])
        order = landing_check.LandFish(
            trip_id=trip_id,
            species=fish["species"],
            length_m=fish["length_cm"] / 100,
            length_type=fish["length_type"],
            weight_kg=fish.get("weight_kg"),
            party_id=ids[fish["party"]],
            caught_by=ids[fish["caught_by"]],
            states=tuple(fish["states"]),
        )
        fish_id = landing.land_fish(self._at(landed), self._key(), order).subject_id
        for state, minutes in fish.get("later", {}).items():
            at = self._at(landed - timedelta(minutes=minutes))
            handling.mark_state(at, self._key(), handling.MarkState(fish_id, state))
        for minutes, celsius in fish.get("probed", []):
            at = self._at(landed - timedelta(minutes=minutes))
            handling.read_core(at, self._key(), handling.ReadCore(fish_id, celsius))
        if "look" in fish:
            marks = tuple(fish["look"].items())
            at = self._at(timedelta(minutes=12))
            handling.look_over(at, self._key(), handling.LookOver(fish_id, marks))
        # the table opens two hours later, and a fish takes some minutes
        begun = max(timedelta(minutes=1), landed - timedelta(hours=2))
        if "working_minutes" in fish:
            begun = timedelta(minutes=fish["working_minutes"] - 2)
        if fish.get("pieces") and "cutter" in fish:
            board = ids[f"board of {fish['cutter']}"]
            start = boards.StartFish(fish_id, board)
            boards.start_fish(self._at(begun + timedelta(minutes=2)), self._key(), start)
        for index, (slot, kg) in enumerate(fish.get("pieces", {}).items()):
            piece, _, side = slot.partition(".")
            at = self._at(begun - timedelta(seconds=25 * index))
            weighing.weigh_piece(at, self._key(), weighing.WeighPiece(fish_id, piece, side, kg))
        for seen_here in fish.get("seen", ()):
            at = self._at(begun - timedelta(minutes=2))
            findings.note_sight(at, self._key(), findings.NoteSight(fish_id, **seen_here))
        for piece, fate in fish.get("fates", {}).items():
            at = self._at(begun - timedelta(minutes=4))
            byproducts.send_piece(at, self._key(), byproducts.SendPiece(fish_id, piece, fate))
        if fish.get("finished"):
            after = self._at(begun - timedelta(minutes=6))
            steps.close_fish(after, self._key(), steps.CloseFish(fish_id))
        if fish.get("bags"):
            self._pack(trip_id, fish_id, fish["bags"], begun - timedelta(minutes=12), places)

    def _evening(
        self, trip: dict[str, Any], trip_id: str, ago: timedelta, ids: dict[str, str]
    ) -> None:
        ctx = self._at(ago)
        now = ctx.clock()
        if "home_in_minutes" in trip:
            home = now + timedelta(minutes=trip["home_in_minutes"])
            order = trips.EditTrip(
                trip_id, trip["sea_c"], trip["air_c"], trip["ice_kg"], None, home
            )
            trips.edit_trip(ctx, self._key(), order)
        for name, minutes in trip.get("leaves_in_minutes", {}).items():
            leaves = now + timedelta(minutes=minutes)
            party = boards.SetParty(ids[name], leaves, name in trip.get("together", ()))
            boards.set_party(ctx, self._key(), party)
        for name, (begin, end) in trip.get("breaks_in_minutes", {}).items():
            board = boards.SetBoard(
                ids[f"board of {name}"],
                None,
                now + timedelta(minutes=begin),
                now + timedelta(minutes=end),
            )
            boards.set_board(ctx, self._key(), board)

    def _pack(
        self, trip_id: str, fish_id: str, target: str, ago: timedelta, places: dict[str, str]
    ) -> None:
        ctx = self._at(ago)
        for row in pack.list_pieces(ctx, trip_id).waiting:
            if row.fish.id != fish_id:
                continue
            view = pack.view_piece(ctx, row.weighing.id, portioning.Marks())
            for bag in view.bags:
                # fillets went over the scale: they teach where their meat lies
                factor = None if view.profile is None else TAIL if bag.tail else THICK
                kg = None if factor is None else round(bag.kg * factor, 3)
                piece = seal.PieceBag(row.weighing.id, bag.index, view.marks)
                order = seal.SealBag(trip_id, kg=kg, of_piece=piece)
                bag_id = seal.seal_bag(ctx, self._key(), order).subject_id
                if target in places:
                    code = label.label_of(ctx, bag_id).code
                    away = moves.PutAway((code,), places[target])
                    moves.put_away(ctx, self._key(), away)

    def _at(self, ago: timedelta) -> AppContext:
        moment = self._now - ago
        return replace(self._ctx, clock=lambda: moment)

    def _key(self) -> str:
        self._keys += 1
        return f"demo-{self._keys:08d}"
