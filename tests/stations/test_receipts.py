"""Receipts: to the penny in every split, one party behind an address that cannot be guessed."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import BadInput, OutOfRange, Refused, Unknown
from lepidos.core.pack.costs import each, read_amount, share_out, show_amount
from lepidos.stations.base import money
from lepidos.stations.pack import bagging, receipts, seal
from lepidos.stations.table import steps
from lepidos.stations.trips import trips
from lepidos.stations.undo import undo
from tests.app import AppTest


class CostsTest(unittest.TestCase):
    @given(
        st.integers(0, 10_000_000),
        st.lists(st.one_of(st.just(0.0), st.floats(0.001, 1e6)), min_size=1, max_size=12),
    )
    def test_shares_add_up_to_the_penny_and_are_never_a_penny_off(
        self, coins: int, weights: list[float]
    ) -> None:
        shares = share_out(coins, weights)
        self.assertEqual(sum(shares), coins)
        total = sum(weights)
        if total:
            for share, weight in zip(shares, weights, strict=True):
                self.assertLess(abs(share - coins * weight / total), 1.0001)

    def test_amounts_are_read_as_people_type_them(self) -> None:
        for text, coins in (
            ("12", 1200),
            ("12,50", 1250),
            ("12.5", 1250),
            ("1 200", 120000),
            ("0", 0),
        ):
            with self.subTest(text=text):
                self.assertEqual(read_amount(text), coins)
        for text in ("", "x", "-1", "1.005", "NaN", "Infinity", "1e99", "1.2.3"):
            with self.subTest(text=text), self.assertRaises(BadInput):
                read_amount(text)
        self.assertEqual(read_amount("1200", 0), 1200)
        self.assertEqual(read_amount("1.005", 3), 1005)
        with self.assertRaises(OutOfRange):
            read_amount("1", 4)
        self.assertEqual(show_amount(1200, "JPY", 0), "1200 JPY")

    def test_each_currency_is_written_with_its_own_digits(self) -> None:
        # ISO 4217: yen, won, Icelandic krona and Chilean peso have none, three dinars have three
        for code, text in (
            ("JPY", "12345 JPY"), ("KRW", "12345 KRW"), ("ISK", "12345 ISK"), ("CLP", "12345 CLP"),
            ("KWD", "12.345 KWD"), ("BHD", "12.345 BHD"), ("TND", "12.345 TND"),
            ("EUR", "123.45 EUR"),
        ):  # fmt: skip
            self.assertEqual(money.shown(12345, code), text)

    def test_what_cannot_be_shared_is_refused_and_none_costs_nothing(self) -> None:
        for coins, weights in ((100, []), (-1, [1.0]), (100, [-1.0]), (100, [float("nan")])):
            with self.subTest(weights=weights), self.assertRaises(OutOfRange):
                share_out(coins, weights)
        self.assertIsNone(each(100, 0))

    def test_a_mackerel_for_four_at_four_is_one_a_portion(self) -> None:
        """The trade's own example: a 2 lb mackerel bought for 4.00 gives four adult portions."""
        self.assertEqual(each(400, 4), 100)


class ReceiptTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.tolland, self.marsh = (p.id for p in trips.view_trip(self.ctx, self.trip).parties)
        for party, kg in ((self.tolland, 0.9), (self.tolland, 0.5), (self.marsh, 0.61)):
            fish = self.land(self.trip, "cod", 75, party_id=party, weight_kg=4.0).subject_id
            self.weigh(fish, "fillet.A", kg)
            self.clock.advance(minutes=11)
            steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        while (bag := bagging.view_pack(self.ctx, self.trip).next_bag) is not None:
            keys = tuple(row.part.key for row in bag.rows)
            seal.seal_bag(self.ctx, self.key(), seal.SealBag(self.trip, keys))

    def cost(self, amount: str = "100.01", shared_by: str = "weight", **more: object) -> str:
        order = receipts.AddCost(self.trip, "The boat", amount, shared_by)
        return receipts.add_cost(self.ctx, self.key(), replace(order, **more)).subject_id

    def both(self) -> list[receipts.PartyReceipt]:
        return [receipts.view_receipt(self.ctx, self.trip, p) for p in (self.tolland, self.marsh)]

    def test_totals_are_the_trips_to_the_penny_in_every_way(self) -> None:
        for way in receipts.SHARED_BY:
            self.cost(shared_by=way)
            self.cost("0.01", way)
        for line in zip(*(r.costs for r in self.both()), strict=True):
            self.assertEqual(sum(part.coins for part in line), line[0].cost.coins)
        self.assertEqual(sum(r.coins for r in self.both()), len(receipts.SHARED_BY) * 10002)

    def test_each_way_weighs_what_it_says(self) -> None:
        self.cost("30.00", "fish")
        self.cost("30.00", "equal")
        self.cost("20.10", "weight")
        tolland, marsh = self.both()
        self.assertEqual([c.coins for c in tolland.costs][:2], [2000, 1500])
        self.assertEqual(tolland.costs[2].coins, 1400)  # 1.4 of 2.01 kg
        self.assertEqual(marsh.costs[2].coins, 610)

    def test_a_party_sees_its_own_fish_bags_and_yield(self) -> None:
        tolland, marsh = self.both()
        self.assertEqual([f.fish.code for f in tolland.fish], ["C1", "C2"])
        self.assertAlmostEqual(tolland.fish[0].fillet_part, 0.9 / 4.0)
        self.assertAlmostEqual(tolland.kg, 1.4)
        self.assertAlmostEqual(marsh.kg, 0.61)
        self.assertFalse({b.id for b in tolland.bags} & {b.id for b in marsh.bags})

    def test_a_portion_and_a_kilogram_have_their_price(self) -> None:
        self.assertIsNone(self.both()[0].per_kg)
        self.cost("14.00", "fish")
        tolland = self.both()[0]
        self.assertEqual(tolland.per_kg, each(tolland.coins, tolland.kg))
        self.assertEqual(tolland.per_serving, each(tolland.coins, tolland.servings))

    def test_a_cost_is_taken_off_again(self) -> None:
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("cost", self.cost()))
        self.assertEqual(self.both()[0].costs, ())

    def test_what_cannot_be_is_refused_at_its_field(self) -> None:
        for more, field in (
            ({"name": " "}, "cost"),
            ({"amount": "x"}, "amount"),
            ({"shared_by": "luck"}, "shared_by"),
        ):
            with self.subTest(more=more), self.assertRaises(Refused) as caught:
                self.cost(**more)
            self.assertEqual(list(caught.exception.problems), [field])
        with self.assertRaises(Refused):
            receipts.choose_currency(self.ctx, self.key(), receipts.ChooseCurrency("€"))

    def test_the_currency_and_its_digits_are_the_crews(self) -> None:
        receipts.choose_currency(self.ctx, self.key(), receipts.ChooseCurrency("jpy"))
        with self.assertRaisesRegex(Refused, "0 digits"):
            self.cost("12.50")
        self.cost("1250")
        self.assertEqual(self.both()[0].currency, "JPY")

    def test_a_private_address_shows_one_party_cannot_be_guessed_and_can_be_withdrawn(self) -> None:
        made = [
            receipts.make_link(
                self.ctx, self.key(), receipts.MakeLink(self.trip, self.marsh)
            ).subject_id
            for _ in range(3)
        ]
        tokens = [link.token for link in self.both()[1].links]
        self.assertEqual(len(set(tokens)), 3)
        for token in tokens:
            self.assertGreaterEqual(len(token), 22)  # 128 bits in six-bit characters
        self.assertEqual(receipts.receipt_by_token(self.ctx, tokens[0]).name, "Marsh")
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("receipt link", made[0]))
        for token in (tokens[0], "", tokens[1][:-1], "%"):
            with self.subTest(token=token), self.assertRaises(Unknown):
                receipts.receipt_by_token(self.ctx, token)
        self.assertEqual(receipts.receipt_by_token(self.ctx, tokens[1]).party_id, self.marsh)

    def test_a_trip_without_parties_has_one_receipt_for_all(self) -> None:
        alone = self.start_trip(parties=(), name="Alone")
        fish = self.land(alone, "cod", 75, weight_kg=4.0).subject_id
        self.weigh(fish, "fillet.A", 0.4)
        order = receipts.AddCost(alone, "Bait", "5", "weight")
        receipts.add_cost(self.ctx, self.key(), order)
        found = receipts.view_receipt(self.ctx, alone, "")
        self.assertEqual((found.name, found.coins, len(found.fish)), ("Alone", 500, 1))
