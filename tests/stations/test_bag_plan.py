"""The bag plan at its station: what may share a bag, one touch a bag, hands, stock, and the split."""

import math
import time
from dataclasses import replace
from datetime import date
from unittest import mock

from lepidos.core.catch.rule_cards import RuleCard
from lepidos.core.errors import Conflict, OutOfRange, Refused, Unknown
from lepidos.core.pack.bag_sizes import LaidShape
from lepidos.guide.label_words import label_languages
from lepidos.guide.packing import usual_packing
from lepidos.stations.base.context import Receipt
from lepidos.stations.base.split_search import SplitSearch
from lepidos.stations.deck import rule_cards
from lepidos.stations.freezer import freezer, moves, places
from lepidos.stations.pack import (
    bagging,
    by_hand,
    columns,
    label,
    marking,
    pack,
    paper,
    party_wishes,
    portioning,
    seal,
    seal_checks,
    sharing,
    to_come,
)
from lepidos.stations.pack.parts import PartRow
from lepidos.stations.pack.planned import PackTable, PlannedBag
from lepidos.stations.table import findings, wishes
from lepidos.stations.table.said import Said
from lepidos.stations.trips import trips
from lepidos.stations.undo import undo
from lepidos.store.pack import bags, packing, portions
from tests.app import AppTest


class BagPlanTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        view = trips.view_trip(self.ctx, self.trip)
        self.tolland, self.marsh = (p.id for p in view.parties)

    def cut(self, party: str, species: str = "cod", cm: float = 75, **kg: float) -> str:
        """A fish of a party with these pieces: `fillet_A=0.6`."""
        fish = self.land(self.trip, species, cm, party_id=party).subject_id
        for slot, weight in kg.items():
            self.weigh(fish, slot.replace("_", "."), weight)
        return fish

    def plan(self, chosen: str = "") -> PackTable:
        return bagging.view_pack(self.ctx, self.trip, chosen)

    def seal_bag(self, bag: PlannedBag, **more: object) -> str:
        keys = tuple(row.part.key for row in bag.rows)
        order = seal.SealBag(self.trip, keys, **more)
        return seal.seal_bag(self.ctx, self.key(), order).subject_id

    def lay(self, *parts: str, into: tuple[str, ...] = (), free: bool = False) -> None:
        by_hand.lay_together(
            self.ctx, self.key(), by_hand.LayTogether(self.trip, parts, into, free)
        )


class PlanTest(BagPlanTest):
    def test_a_bag_of_a_cheek_or_a_collar_alone_is_a_part_of_a_serving(self) -> None:
        self.cut(self.tolland, collar_A=0.038)
        (bag,) = self.plan().planned
        self.assertEqual(bag.servings, 0.2)
        self.seal_bag(bag)
        with self.ctx.store.reading():
            ((sealed, _),) = bags.of_trip(self.trip, ("sealed",))
        self.assertEqual(sealed.servings, 0.2)
        self.cut(self.tolland, fillet_A=0.6)
        whole = [b for b in self.plan().planned if b.piece.key == "fillet"]
        # three portions of 160 g are one each, the thin tail of 120 g is a part of one
        self.assertEqual([(b.servings, b.tail) for b in whole], [(2.0, False), (0.6, True)])

    def test_cheeks_of_many_fish_are_one_bag_and_parties_are_kept_apart(self) -> None:
        for party in (self.tolland, self.tolland, self.marsh):
            self.cut(party, cheek_A=0.02, cheek_B=0.021)
        found = {(c.name, b.name, len(b.rows)) for c in self.plan().columns for b in c.planned}
        self.assertEqual(found, {("Tolland", "cod cheeks", 4), ("Marsh", "cod cheeks", 2)})

    def test_sealing_bag_after_bag_packs_every_gram_once(self) -> None:
        self.cut(self.tolland, fillet_A=0.71, fillet_B=0.69, cheek_A=0.02, belly_A=0.11)
        self.cut(self.tolland, fillet_A=0.53, cheek_A=0.02)
        touches = 0
        while (bag := self.plan().next_bag) is not None:
            self.seal_bag(bag)
            touches += 1
        self.assertLess(touches, 9)  # six pieces were ten bags when each was packed by itself
        self.assertEqual(pack.list_pieces(self.ctx, self.trip).waiting, ())
        with self.ctx.store.reading():
            shares = portions.shares_of_trip(self.trip)
        self.assertEqual(len(shares), 6)
        for share in shares.values():
            self.assertAlmostEqual(share, 1.0)

    def test_the_same_meat_of_a_slim_fish_is_longer_and_thinner_and_is_hard_sooner(self) -> None:
        # a ling and a wolffish of about two kilograms; each gave a fillet of 0.45 kg
        for species, cm in (("ling", 71.0), ("atlantic_wolffish", 58.0)):
            self.cut(self.tolland, species, cm, fillet_A=0.45)
        shapes: dict[str, list[LaidShape]] = {}
        for bag in self.plan().planned:
            for row in bag.rows:
                shapes.setdefault(bag.species.key, []).append(row.part.shape)
        slim, plump = shapes["ling"], shapes["atlantic_wolffish"]
        self.assertGreater(sum(s.length_m for s in slim), 1.15 * sum(s.length_m for s in plump))
        self.assertLess(max(s.thick_m for s in slim), 0.95 * max(s.thick_m for s in plump))
        self.assertLess(slim[0].width_m, plump[0].width_m)
        bag_codes = {b.species.key: self.seal_bag(b) for b in self.plan().planned[:]}
        with self.ctx.store.reading():
            hours = {
                key: places.hours_to_hard(self.ctx.guide.one(key), bags.get(bag), -20.0, "still")
                for key, bag in bag_codes.items()
            }
        self.assertLess(hours["ling"] or 0.0, hours["atlantic_wolffish"] or 0.0)

    def test_a_piece_that_nobody_drew_is_taken_for_an_oval_of_its_weight(self) -> None:
        """An ellipsoid: π/6 · length · width · thickness · 1055 kg/m³."""
        self.cut(self.tolland, roe=0.3)
        (row,) = [row for bag in self.plan().planned for row in bag.rows]
        oval = row.part.shape
        volume = math.pi / 6 * oval.length_m * oval.width_m * oval.thick_m
        self.assertAlmostEqual(volume * 1055, 0.3, delta=0.003)
        self.assertAlmostEqual(oval.length_m / oval.thick_m, 4.0, delta=0.01)

    def test_what_was_seen_is_not_mixed_with_clean_fish(self) -> None:
        clean, wormy = (self.cut(self.tolland, cheek_A=0.02) for _ in range(2))
        findings.note_sight(self.ctx, self.key(), findings.NoteSight(wormy, "worms", 2))
        found = [[row.row.fish.id for row in b.rows] for b in self.plan().planned]
        self.assertCountEqual(found, [[clean], [wormy]])

    def test_what_fish_should_still_give_is_foreseen_and_goes_as_it_is_cut(self) -> None:
        self.land(self.trip, "cod", 75, party_id=self.tolland)
        ahead = self.plan()
        self.assertEqual(ahead.planned, ())
        self.assertGreater(ahead.to_come, 3)
        names = {
            b.name
            for c in ahead.columns
            if c.name == "Tolland"
            for b in (row.example for row in c.to_come)
        }
        self.assertIn("cod fillet", names)
        self.assertFalse({"cod frame", "cod gut", "cod head"} & names)

    def test_a_first_fillet_leaves_what_was_worked_out_of_the_other_fish(self) -> None:
        """With it the fish's own plan is settled, which is a wish, and no other fish's."""
        landed = [self.land(self.trip, "cod", 70 + n, party_id=self.tolland) for n in range(3)]
        self.plan()
        with mock.patch.object(to_come, "_of_fish", wraps=to_come._of_fish) as worked_out:
            fish = self.cut(self.tolland, fillet_A=0.9)
            self.plan()
            self.assertEqual({call.args[4].id for call in worked_out.call_args_list}, {fish})
            worked_out.reset_mock()
            said = wishes.WishOfCrew("cod", Said(skin="off"))
            wishes.wish_of_crew(self.ctx, self.key(), said)
            self.plan()
            asked = {call.args[4].id for call in worked_out.call_args_list}
        self.assertLessEqual({one.subject_id for one in landed}, asked)

    def test_a_weighing_leaves_the_fishs_other_pieces_as_they_were(self) -> None:
        fish = self.cut(self.tolland, fillet_A=0.9, belly_A=0.1)
        self.cut(self.tolland, fillet_A=0.8)

        def parts() -> dict[str, PartRow]:
            return {row.part.key: row for bag in self.plan().planned for row in bag.rows}

        before = parts()
        self.weigh(fish, "fillet.B", 0.88)
        after = parts()
        self.assertEqual({key for key in before if after[key] is not before[key]}, set())
        self.assertGreater(len(after), len(before))
        # and what is said of the fish makes all of its own anew
        findings.note_sight(self.ctx, self.key(), findings.NoteSight(fish, "worms", 2))
        again = parts()
        changed = {row.row.fish.id for key, row in again.items() if row is not after[key]}
        self.assertEqual(changed, {fish})

    def test_least_long_keeping_fish_and_large_bags_come_first(self) -> None:
        self.cut(self.tolland, fillet_A=0.9)
        self.cut(self.tolland, "mackerel", 34, fillet_A=0.12)
        kinds = [b.species.key for b in self.plan().planned]
        self.assertEqual(kinds[0], "mackerel")
        cod = [
            round(b.bag.kg, 3) for b in self.plan().planned if b.species.key == "cod" and not b.tail
        ]
        self.assertEqual(cod, sorted(cod, reverse=True))

    def test_a_partys_rule_is_its_own(self) -> None:
        for party in (self.tolland, self.marsh):
            self.cut(party, fillet_A=0.81)
        order = by_hand.SetRule(self.trip, self.marsh, 0.4, 1, False)
        by_hand.set_rule(self.ctx, self.key(), order)
        count = {c.name: sorted(len(b.rows) for b in c.planned) for c in self.plan().columns}
        self.assertEqual(count["Marsh"], [1, 1])
        self.assertEqual(sum(count["Tolland"]), 4)

    def test_a_piece_marked_for_itself_follows_its_own_marks(self) -> None:
        self.cut(self.tolland, fillet_A=0.8)
        piece = self.plan().pieces[0].weighing.id
        order = marking.MarkPiece(piece, serving_kg=0.1, per_bag=4, tail_apart=False)
        marking.mark_piece(self.ctx, self.key(), order)
        self.assertEqual([len(b.rows) for b in self.plan().planned], [4, 4])
        self.seal_bag(self.plan().planned[0])
        with self.assertRaisesRegex(Refused, "sealed"):
            marking.mark_piece(self.ctx, self.key(), order)


class SealTest(BagPlanTest):
    def setUp(self) -> None:
        super().setUp()
        self.cut(self.tolland, fillet_A=0.8, fillet_B=0.78)

    def test_two_hands_cannot_seal_the_same_portion(self) -> None:
        bag = self.plan().planned[0]
        self.seal_bag(bag)
        with self.assertRaisesRegex(Conflict, "went into another"):
            self.seal_bag(bag)

    def test_nor_can_the_piece_itself_be_sealed_over_it(self) -> None:
        """Its own plan's second bag holds portions 2 and 3; only 3 is sealed."""
        piece = self.plan().pieces[0].weighing.id
        view = pack.view_piece(self.ctx, piece, portioning.Marks())
        two = next(b for b in view.bags if len(b.portions) == 2)
        keys = [
            r.part.key for b in self.plan().planned for r in b.rows if r.row.weighing.id == piece
        ]
        second = next(k for k in keys if k.split(":")[1] == str(two.portions[1].index))
        seal.seal_bag(self.ctx, self.key(), seal.SealBag(self.trip, (second,)))
        with self.assertRaisesRegex(Conflict, "already"):
            self.seal(piece, two.index)

    def test_a_cut_that_was_marked_otherwise_meanwhile_is_a_conflict(self) -> None:
        bag = self.plan().planned[0]
        order = by_hand.SetRule(self.trip, self.tolland, 0.3, 2)
        by_hand.set_rule(self.ctx, self.key(), order)
        with self.assertRaisesRegex(Conflict, "cut otherwise"):
            self.seal_bag(bag)

    def test_a_weighed_bag_shares_its_weight_out(self) -> None:
        bag = self.plan().planned[0]
        code = self.code_of(self.seal_bag(bag, kg=bag.bag.kg * 1.1))
        found = freezer.find_bag(self.ctx, code)
        self.assertAlmostEqual(sum(p.kg for p, _, _ in found.contents), bag.bag.kg * 1.1)
        self.assertTrue(found.row.bag.measured)
        self.assertEqual(found.row.bag.servings, 2)

    def test_another_trips_party_and_no_parts_are_refused(self) -> None:
        other = trips.view_trip(self.ctx, self.start_trip(name="Other")).parties[0].id
        bag = self.plan().planned[0]
        for parts, more in (((), {}), (tuple(r.part.key for r in bag.rows), {"party_id": other})):
            with self.subTest(parts=parts), self.assertRaises(Refused):
                seal.seal_bag(self.ctx, self.key(), seal.SealBag(self.trip, parts, **more))
        self.assertEqual(self.plan().columns[0].sealed, ())

    def test_undoing_the_bag_puts_it_back_into_the_plan(self) -> None:
        before = [b.key for b in self.plan().planned]
        bag = self.seal_bag(self.plan().planned[0])
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("bag", bag))
        self.assertEqual([b.key for b in self.plan().planned], before)

    def test_best_by_is_that_of_the_worse_fish(self) -> None:
        """The gut was cut on one: it is in a bag of its own, and keeps less long."""
        self.cut(self.tolland, fillet_A=0.2)
        soft = self.cut(self.tolland, fillet_A=0.2)
        findings.note_sight(self.ctx, self.key(), findings.NoteSight(soft, "gut_cut"))
        sealed = {}
        for bag in self.plan().planned:
            if bag.codes in (("C2",), ("C3",)):
                sealed[bag.codes[0]] = bags_best(self, self.seal_bag(bag))
        self.assertLess(sealed["C3"], sealed["C2"])


def bags_best(test: AppTest, bag: str) -> object:
    with test.ctx.store.reading():
        return bags.get(bag).best_by


class HandTest(BagPlanTest):
    def setUp(self) -> None:
        super().setUp()
        for _ in range(3):
            self.cut(self.tolland, cheek_A=0.02)
        self.keys = [row.part.key for row in self.plan().planned[0].rows]

    def bags(self) -> list[list[str]]:
        return sorted(sorted(r.part.key for r in b.rows) for b in self.plan().planned)

    def test_two_touches_lay_a_piece_apart_and_back(self) -> None:
        one, two, three = sorted(self.keys)
        self.lay(two)
        self.assertEqual(self.bags(), sorted([[one, three], [two]]))
        self.lay(one, into=(two,))
        self.assertEqual(self.bags(), sorted([[one, two], [three]]))
        self.assertTrue(any(b.bag.by_hand for b in self.plan().planned))
        self.lay(one, two, free=True)
        self.assertEqual(self.bags(), [[one, two, three]])

    def test_undo_lays_pieces_as_they_lay_before(self) -> None:
        self.cut(self.tolland, fillet_A=0.3, fillet_B=0.3)
        before = {b.key for b in self.plan().planned}
        part = self.plan().planned[0].rows[0].part.key
        rest = tuple(r.part.key for b in self.plan().planned for r in b.rows if r.part.key != part)
        for order in (
            by_hand.LayTogether(self.trip, (part,)),
            by_hand.LayTogether(self.trip, (part,), rest[:1]),
            by_hand.GiveBag(self.trip, (part,), self.marsh),
        ):
            with self.subTest(order=order):
                do = (
                    by_hand.give_bag if isinstance(order, by_hand.GiveBag) else by_hand.lay_together
                )
                done = do(self.ctx, self.key(), order)
                self.assertTrue(undo.can_undo(done))
                self.take_back(done)
                self.assertEqual({b.key for b in self.plan().planned}, before)
        # laying it apart and then as the plan has it: undone, it lies apart again
        self.lay(part)
        apart = {b.key for b in self.plan().planned}
        free = by_hand.LayTogether(self.trip, (part,), free=True)
        self.take_back(by_hand.lay_together(self.ctx, self.key(), free))
        self.assertEqual({b.key for b in self.plan().planned}, apart)

    def test_undo_of_what_was_said_for_packing_brings_back_what_held_before(self) -> None:
        self.cut(self.tolland, fillet_A=0.6)
        rule = by_hand.SetRule(self.trip, self.tolland, 0.1, 1)
        wish = party_wishes.WishOnLabels(self.trip, self.tolland, "no bones", ("cod",))
        count = by_hand.CountSupply(0.2, 0.3, 5)
        share = sharing.ShareOut(self.trip, "equal")

        def state() -> tuple[object, ...]:
            found = self.plan()
            return (
                [c.marks for c in found.columns], found.wishes, found.supplies, found.shared.how,
                by_hand.labels_now(self.ctx),
            )  # fmt: skip

        for do, order in (
            (by_hand.set_rule, rule),
            (party_wishes.wish_of_party, wish),
            (by_hand.count_supply, count),
            (by_hand.count_labels, by_hand.CountLabels(40)),
            (sharing.share_out, share),
        ):
            with self.subTest(order=order):
                before = state()
                done = do(self.ctx, self.key(), order)
                self.assertNotEqual(state(), before)
                self.take_back(done)
                self.assertEqual(state(), before)
                with self.assertRaises(Conflict):
                    self.take_back(done)
        for kind in ("bag plan", "bag rule", "supply"):
            with self.subTest(kind=kind), self.assertRaises(Unknown):
                undo.undo_row(self.ctx, self.key(), undo.UndoRow(kind, "nothing"))

    def take_back(self, done: Receipt) -> None:
        undo.undo_row(self.ctx, self.key(), undo.UndoRow(done.subject_kind, done.subject_id))

    def test_what_may_not_share_a_bag_is_refused_with_the_reason(self) -> None:
        self.cut(self.marsh, cheek_A=0.03)
        theirs = next(b for c in self.plan().columns if c.name == "Marsh" for b in c.planned)
        with self.assertRaisesRegex(Refused, "different parties"):
            self.lay(self.keys[0], into=(theirs.rows[0].part.key,))
        self.cut(self.tolland, belly_A=0.1)
        belly = next(b for b in self.plan().planned if b.piece.name == "belly")
        with self.assertRaisesRegex(Refused, "different pieces"):
            self.lay(self.keys[0], into=(belly.rows[0].part.key,))

    def test_a_bag_is_given_to_somebody_else(self) -> None:
        order = by_hand.GiveBag(self.trip, tuple(self.keys), self.marsh)
        by_hand.give_bag(self.ctx, self.key(), order)
        self.assertEqual(
            [(c.name, len(c.planned)) for c in self.plan().columns], [("Tolland", 0), ("Marsh", 1)]
        )
        self.seal_bag(self.plan().planned[0])
        self.assertEqual(len(self.plan().columns[1].sealed), 1)


class SupplyTest(BagPlanTest):
    def count(self, *held: float) -> None:
        for (width, length), number in zip(
            ((0.15, 0.25), (0.25, 0.35), (0.28, 0.0)), held, strict=True
        ):
            by_hand.count_supply(self.ctx, self.key(), by_hand.CountSupply(width, length, number))

    def left(self) -> list[float | None]:
        return [line.left for line in self.plan().supplies if line.left is not None]

    def test_bags_are_counted_down_and_undone_ones_are_used_up(self) -> None:
        self.count(5, 7, 3.0)
        self.cut(self.tolland, cheek_A=0.02)
        bag = self.plan().planned[0]
        sealed = self.seal_bag(bag, width_m=bag.laid.size.width_m, length_m=bag.laid.length_m)
        self.assertEqual(self.left(), [4, 7, 3.0])
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("bag", sealed))
        self.assertEqual(self.left(), [4, 7, 3.0])
        self.seal_bag(self.plan().planned[0], width_m=0.28, length_m=0.22, from_roll=True)
        self.assertEqual(self.left(), [4, 7, 2.78])

    def test_a_later_count_holds(self) -> None:
        self.count(5, 7, 3.0)
        self.count(2, 0, 1.0)
        self.assertEqual(self.left(), [2, 0, 1.0])

    def test_what_is_short_is_said(self) -> None:
        self.count(1, 0, 0.0)
        self.cut(self.tolland, cheek_A=0.02)
        self.cut(self.marsh, cheek_A=0.02)
        self.assertEqual({line.size.width_m: line.takes for line in self.plan().supplies if line.takes},
                         {0.15: 1, 0.20: 1})  # fmt: skip
        by_hand.count_supply(self.ctx, self.key(), by_hand.CountSupply(0.20, 0.30, 0))
        short = {line.size.width_m: line.short for line in self.plan().supplies if line.short}
        self.assertEqual(short, {0.15: 1})

    def test_labels_are_counted_with_those_printed_again_and_those_void(self) -> None:
        by_hand.count_labels(self.ctx, self.key(), by_hand.CountLabels(10))
        self.cut(self.tolland, fillet_A=0.8)
        one, two = (self.seal_bag(self.plan().planned[0]) for _ in range(2))
        for bag in (one, one, two):
            label.print_label(self.ctx, bag)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("bag", two))
        self.assertEqual(tuple(by_hand.labels_now(self.ctx)), (7, 3, 1, 1))
        self.printer.trouble = "jam"
        self.assertIn("stuck", label.send_label(self.ctx, one))
        self.assertEqual(by_hand.labels_now(self.ctx).printed, 3)
        by_hand.count_labels(self.ctx, self.key(), by_hand.CountLabels(50))
        self.assertEqual(tuple(by_hand.labels_now(self.ctx)), (50, 0, 0, 0))

    def test_what_cannot_be_is_refused_at_its_field(self) -> None:
        for order, field in (
            (by_hand.CountSupply(0.01, 0.2, 5), "width"),
            (by_hand.CountSupply(0.2, 3.0, 5), "length"),
            (by_hand.CountSupply(0.2, 0.3, -1), "held"),
            (by_hand.CountSupply(0.2, 0.3, 1.5), "held"),
        ):
            with self.subTest(order=order), self.assertRaises(Refused) as caught:
                by_hand.count_supply(self.ctx, self.key(), order)
            self.assertEqual(list(caught.exception.problems), [field])
        with self.ctx.store.reading():
            self.assertEqual(packing.supplies(), [])


class ShareTest(BagPlanTest):
    def share(self, how: str, **shares: int) -> None:
        parties = {"tolland": self.tolland, "marsh": self.marsh}
        given = tuple((parties[name], share) for name, share in shares.items())
        sharing.share_out(self.ctx, self.key(), sharing.ShareOut(self.trip, how, given))

    def grams(self) -> dict[str, float]:
        return {
            c.name: sum(b.bag.kg for b in c.planned) + sum(b.kg for b in c.sealed)
            for c in self.plan().columns
        }

    def setUp(self) -> None:
        super().setUp()
        self.cut(self.tolland, fillet_A=1.6, fillet_B=1.6)
        self.cut(self.tolland, "ling", 90, fillet_A=0.8, fillet_B=0.8)
        self.cut(self.marsh, fillet_A=0.4)

    def test_each_its_own_until_somebody_says_otherwise(self) -> None:
        self.assertAlmostEqual(self.grams()["Marsh"], 0.4)

    def test_equal_parts_and_what_is_sealed_stays(self) -> None:
        self.share(sharing.EQUAL)
        grams = self.grams()
        self.assertLess(abs(grams["Tolland"] - grams["Marsh"]), 0.25)
        theirs = self.plan().columns[1].planned[0]
        self.seal_bag(theirs, party_id=self.marsh)
        after = self.plan()
        self.assertEqual(len(after.columns[1].sealed), 1)
        for party in after.shared.parties:
            self.assertAlmostEqual(party.has_kg, self.grams()[party.name], places=2)

    def test_a_bag_that_was_handed_over_still_counts_as_given(self) -> None:
        self.share(sharing.EQUAL)
        before = {p.name: p.due_kg for p in self.plan().shared.parties}
        code = self.code_of(self.seal_bag(self.plan().columns[1].planned[0], party_id=self.marsh))
        place = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        code = code.replace("-", "")
        moves.put_away(self.ctx, self.key(), moves.PutAway((code,), place))
        moves.take_out(self.ctx, self.key(), moves.TakeOut((code,), "given away"))
        after = self.plan()
        for party in after.shared.parties:
            self.assertAlmostEqual(party.due_kg, before[party.name], places=2)
        self.assertEqual(len(after.columns[1].sealed), 1)

    def test_a_bag_sealed_for_nobody_is_not_reckoned_as_somebodys(self) -> None:
        self.cut("", fillet_A=0.5)
        nobodys = next(b for b in self.plan().planned if b.party_id == "")
        self.seal_bag(nobodys)
        self.share(sharing.EQUAL)
        plan = self.plan()
        due = sum(p.due_kg for p in plan.shared.parties)
        self.assertAlmostEqual(due, sum(b.bag.kg for b in plan.planned), places=2)

    def test_laying_pieces_together_gives_them_to_nobody(self) -> None:
        """Laid by hand while each had its own, they are shared out with all the rest later."""
        bag = self.plan().columns[0].planned[0]
        self.lay(*(row.part.key for row in bag.rows))
        self.share(sharing.EQUAL)
        self.assertEqual({b.party_id for b in self.plan().planned}, {""})

    def test_by_shares(self) -> None:
        self.share(sharing.SHARES, tolland=3, marsh=1)
        grams = self.grams()
        self.assertLess(abs(grams["Tolland"] - 3 * grams["Marsh"]), 0.9)
        self.share(sharing.SHARES, tolland=1, marsh=0)
        self.assertEqual(self.grams()["Marsh"], 0)

    def test_the_trophy_stays_with_its_party(self) -> None:
        self.share(sharing.TROPHY)
        plan = self.plan()
        own = {(c.name, b.codes) for c in plan.columns for b in c.planned if not b.pooled}
        self.assertTrue(own)
        for name, codes in own:
            heaviest = {"Tolland": {"L1"}, "Marsh": {"C2"}}[name]
            self.assertLessEqual(set(codes), heaviest)

    def test_in_turn_everybody_draws_as_many(self) -> None:
        self.share(sharing.TURN)
        often = [len(c.planned) for c in self.plan().columns]
        self.assertLessEqual(abs(often[0] - often[1]), 1)

    def test_a_pinned_bag_stays_in_every_split(self) -> None:
        self.share(sharing.EQUAL)
        bag = self.plan().columns[0].planned[0]
        keys = tuple(row.part.key for row in bag.rows)
        by_hand.give_bag(self.ctx, self.key(), by_hand.GiveBag(self.trip, keys, self.marsh))
        for how in (sharing.EQUAL, sharing.TURN):
            self.share(how)
            marsh = self.plan().columns[1].planned
            self.assertIn(set(keys), [{r.part.key for r in b.rows} for b in marsh])

    def test_a_crew_that_does_not_look_has_the_answer_at_once(self) -> None:
        self.ctx = replace(self.ctx, splits=SplitSearch())
        self.share(sharing.EQUAL)
        self.assertIsNone(self.plan().shared.looking_s)

    def test_a_better_split_comes_in_the_background_and_is_told(self) -> None:
        told: list[int] = []
        self.ctx = replace(self.ctx, splits=SplitSearch(5.0))
        self.addCleanup(self.ctx.splits.close)
        self.ctx.splits.on_news = lambda: told.append(1)
        self.share(sharing.EQUAL)
        first = self.plan().shared.split
        until = time.monotonic() + 60
        while self.plan().shared.looking_s is not None and time.monotonic() < until:
            time.sleep(0.05)
        found = self.plan().shared.split
        self.assertTrue(told)
        self.assertTrue(found.proven)
        self.assertLessEqual(found.rank, first.rank)

    def test_what_cannot_be_shared_is_refused(self) -> None:
        for how, shares in (
            ("lots", {}),
            (sharing.SHARES, {"tolland": 0}),
            (sharing.SHARES, {"tolland": -1}),
        ):
            with self.subTest(how=how), self.assertRaises(Refused):
                self.share(how, **shares)
        alone = self.start_trip(parties=())
        with self.assertRaises(Refused):
            sharing.share_out(self.ctx, self.key(), sharing.ShareOut(alone, sharing.EQUAL))


class LearnTest(BagPlanTest):
    def test_weighed_bags_teach_the_profile_and_the_grams_still_add_up(self) -> None:
        """Every bag's thick end is heavier than the guide has it: later marks move to the head."""
        first = self.marks_m()
        for _ in range(4):
            while (bag := self.plan().next_bag) is not None:
                middle = (
                    sum(r.portion.from_m + r.portion.to_m for r in bag.rows) / 2 / len(bag.rows)
                )
                heavier = 1.15 if middle < 0.15 else 0.9
                self.seal_bag(bag, kg=bag.bag.kg * heavier)
            self.cut(self.tolland, fillet_A=0.8)
        view = self.view()
        self.assertGreater(view.learned.bags, 4)
        self.assertIsNotNone(view.learned.typical_g)
        self.assertLess(view.plan.marks_m[0], first[0] - 0.002)
        with self.ctx.store.reading():
            shares = portions.shares_of_trip(self.trip).values()
        for share in shares:
            self.assertAlmostEqual(share, 1.0)

    def test_a_profile_that_learns_meanwhile_leaves_the_rest_of_a_piece_where_it_was(self) -> None:
        before = self.marks_m()
        bag = self.plan().planned[0]
        self.seal_bag(bag, kg=bag.bag.kg * 1.2)
        view = self.view()
        self.assertEqual(view.plan.marks_m, before)
        self.assertAlmostEqual(sum(p.kg for p in view.plan.portions), 0.8)

    def test_what_is_tail_stays_so_once_a_bag_is_sealed(self) -> None:
        """A scrap of tail stays with the rest: as thin as it is, its portion is no tail of its own."""
        self.cut(self.tolland, fillet_A=0.236)
        piece = self.plan().pieces[0].weighing.id
        for serving in (0.05, 0.08, 0.12, 0.15):
            marking.mark_piece(self.ctx, self.key(), marking.MarkPiece(piece, serving_kg=serving))
            bags_before = [(b.tail, len(b.rows)) for b in self.plan().planned]
            sealed = self.seal_bag(self.plan().planned[0])
            self.assertEqual([(b.tail, len(b.rows)) for b in self.plan().planned], bags_before[1:])
            undo.undo_row(self.ctx, self.key(), undo.UndoRow("bag", sealed))

    def view(self) -> pack.PackView:
        piece = self.plan().pieces[0].weighing.id
        return pack.view_piece(self.ctx, piece, portioning.Marks())

    def marks_m(self) -> tuple[float, ...]:
        self.cut(self.tolland, fillet_A=0.8)
        return self.view().plan.marks_m


class MarkingTest(BagPlanTest):
    def mark(self, **how: object) -> list[float]:
        order = marking.MarkPiece(self.plan().pieces[0].weighing.id, **how)
        marking.mark_piece(self.ctx, self.key(), order)
        rows = [row for b in self.plan().planned for row in b.rows]
        return [round(r.portion.to_m, 3) for r in sorted(rows, key=lambda r: r.portion.index)]

    def setUp(self) -> None:
        super().setUp()
        self.cut(self.tolland, fillet_A=0.8)

    def test_by_count_by_thickness_and_by_hand(self) -> None:
        self.assertEqual(len(self.mark(way="count", number=5)), 5)
        steaks = self.mark(way="slices", slice_m=0.025)
        self.assertEqual(steaks[:2], [0.025, 0.05])
        slices = self.mark(way="slices", slice_m=0.02, angle=30.0)
        self.assertEqual(slices[:2], [0.04, 0.08])
        self.assertEqual(self.mark(way="hand", cuts=(0.3, 0.1))[:2], [0.1, 0.3])

    def test_slices_thinner_than_the_profile_is_known_are_as_wide_as_what_is_near(self) -> None:
        self.mark(way="slices", slice_m=0.01)
        rows = sorted(
            (r for b in self.plan().planned for r in b.rows), key=lambda r: r.portion.index
        )
        wide = [r.part.shape.width_m for r in rows]
        widest = wide.index(max(wide))
        self.assertGreater(len(wide), 25)
        self.assertLess(widest, len(wide) / 2)
        # a pollack's fillet narrows towards the tail
        self.assertEqual(wide[widest:], sorted(wide[widest:], reverse=True))
        self.assertLess(wide[-1], 0.6 * wide[widest])

    def test_the_head_end_is_squared_off_and_scraps_join_their_neighbour(self) -> None:
        plain, square = self.mark(), self.mark(square=True)
        self.assertLessEqual(len(plain), len(square))
        least = self.mark(way="slices", slice_m=0.02, least_kg=0.1)
        self.assertLess(len(least), len(self.mark(way="slices", slice_m=0.02)))

    def test_marks_that_cannot_be_are_refused_and_nothing_is_kept(self) -> None:
        before = self.mark(way="count", number=3)
        for how in ({"way": "count", "number": 0}, {"way": "slices", "slice_m": 0.0},
                    {"way": "hand", "cuts": (5.0,)}, {"serving_kg": -1.0}):  # fmt: skip
            with self.subTest(how=how), self.assertRaises(OutOfRange):
                self.mark(**how)
        rows = sorted(
            (r for b in self.plan().planned for r in b.rows), key=lambda r: r.portion.index
        )
        self.assertEqual([round(r.portion.to_m, 3) for r in rows], before)


class PartyWishTest(BagPlanTest):
    def wish(self, party: str, note: str = "", *without: str) -> None:
        order = party_wishes.WishOnLabels(self.trip, party, note, without)
        party_wishes.wish_of_party(self.ctx, self.key(), order)

    def test_a_note_stands_on_a_partys_labels_and_no_others(self) -> None:
        self.wish(self.marsh, "boneless for children")
        for party in (self.tolland, self.marsh):
            self.cut(party, fillet_A=0.2)
        owners = {}
        while (bag := self.plan().next_bag) is not None:
            printed = label.label_of(self.ctx, self.seal_bag(bag))
            owners[printed.owner] = printed.cautions
        self.assertEqual(set(owners), {"Tolland", "Marsh: boneless for children"})
        for cautions in owners.values():
            self.assertIn("Contains fish.", cautions)

    def test_what_a_guest_does_not_take_stands_on_the_label_and_the_party_keeps_it(self) -> None:
        self.cut(self.tolland, fillet_A=0.5)

        def wish(guest: str, note: str, *without: str) -> None:
            order = party_wishes.WishOnLabels(self.trip, self.tolland, note, without, guest)
            party_wishes.wish_of_party(self.ctx, self.key(), order)

        wish("Ada", "boneless")
        wish("Ben", "", "cod")
        wish("Cleo", "", "pollack")
        bag = self.plan().next_bag
        assert bag
        self.assertEqual(self.plan().not_for(bag), ("Ben",))
        self.assertEqual(self.plan().unwanted(bag), "")
        said = label.label_of(self.ctx, self.seal_bag(bag))
        self.assertEqual(said.cautions[:2], ("Not for Ben.", "Ada: boneless."))
        self.assertEqual(said.owner, "Tolland")
        wish("Ben", "")  # nothing is wished any more
        with self.ctx.store.reading():
            self.assertEqual([g.guest for g in packing.guests_of(self.trip)[self.tolland]],
                             ["Ada", "Cleo"])  # fmt: skip
        with self.assertRaises(Refused):
            wish("A name that is longer than labels are", "")

    def test_what_is_looked_at_before_the_sealer_is_what_matters_for_this_bag(self) -> None:
        usual = usual_packing()
        pieces = set(self.ctx.guide.pieces)
        self.assertLessEqual(usual.pieces.bone_in | usual.pieces.soft, pieces)
        text = {check.when: check.text for check in usual.seal_checks}
        fish = self.cut(self.tolland, fillet_A=0.5, collar_A=0.1)
        self.weigh(fish, "roe", 0.1)
        by_hand.count_supply(self.ctx, self.key(), by_hand.CountSupply(0.3, 0.4, 5))
        found = {b.piece.key: seal_checks.seal_checks(self.ctx, b) for b in self.plan().planned}
        self.assertIn(text["bone_in"], found["collar"])
        self.assertIn(text["soft"], found["roe"])
        self.assertNotIn(text["wet"], found["roe"])  # said already: it is soft and wet
        self.assertNotIn(text["wet"], found["fillet"])  # its skin is on
        self.assertIn(text["lone"], found["roe"])
        for bag in self.plan().planned:
            with self.subTest(bag=bag.name):
                shown = seal_checks.seal_checks(self.ctx, bag)
                tight = seal_checks.filled(bag) > seal_checks.TIGHT
                self.assertEqual(text["tight"] in shown, tight)
                self.assertEqual(text["several"] in shown, len(bag.rows) > 1)

    def test_columns_by_day_and_freezer_hold_every_bag_once(self) -> None:
        for party in (self.tolland, self.marsh):
            self.cut(party, fillet_A=0.5, fillet_B=0.5, cheek_A=0.02)
        sealed = [self.seal_bag(self.plan().planned[0]) for _ in range(2)]
        codes = [bag.code for c in self.plan().columns for bag in c.sealed]
        place = places.add_place(self.ctx, self.key(), places.AddPlace("garage"))
        moves.put_away(self.ctx, self.key(), moves.PutAway((codes[0],), place.subject_id))
        found = self.plan()
        for by in columns.BY:
            with self.subTest(by=by):
                shown = columns.columns_by(self.ctx, found, by)
                planned = [b.key for c in shown for b in c.planned]
                self.assertEqual(sorted(planned), sorted(b.key for b in found.planned))
                inside = [b.id for c in shown for b in c.sealed]
                self.assertEqual(sorted(inside), sorted(sealed))
        names = [c.name for c in columns.columns_by(self.ctx, found, columns.FREEZER)]
        self.assertEqual(names, ["garage"])
        days = [c.name for c in columns.columns_by(self.ctx, found, columns.DAY)]
        self.assertEqual(days, ["14 Jul 2026"])

    def test_without_a_freezer_that_is_said(self) -> None:
        self.cut(self.tolland, fillet_A=0.5)
        shown = columns.columns_by(self.ctx, self.plan(), columns.FREEZER)
        self.assertEqual([c.name for c in shown], [columns.NO_PLACE])

    def test_a_label_speaks_the_language_and_writes_dates_as_chosen(self) -> None:
        self.cut(self.tolland, "mackerel", 38, fillet_A=0.2)
        bag = self.plan().next_bag
        assert bag
        sealed = self.seal_bag(bag)
        english = label.label_of(self.ctx, sealed)
        order = paper.ChooseLanguage("de", "ymd")
        paper.choose_language(self.ctx, self.key(), order)
        german = label.label_of(self.ctx, sealed)
        self.assertEqual(german.title, "mackerel Filet")
        self.assertTrue(
            german.details.startswith("Scomber scombrus · mit Haut · 1 Portion · etwa ")
        )
        self.assertEqual(german.dates, "Gefangen 2026-07-14 · verpackt 2026-07-14")
        self.assertTrue(german.best_by.startswith("Mindestens haltbar bis 20"))
        self.assertIn("Enthält Fisch.", german.cautions)
        self.assertEqual(len(german.cautions), len(english.cautions))
        self.assertEqual(set(german.cautions) & set(english.cautions), set())
        paper.choose_language(self.ctx, self.key(), paper.ChooseLanguage("en", "mdy"))
        self.assertEqual(label.label_of(self.ctx, sealed).dates,
                         "Caught Jul 14, 2026 · packed Jul 14, 2026")  # fmt: skip
        for field, wrong in (("language", ("xx", "dmy")), ("dates", ("de", "dym"))):
            with self.subTest(field=field), self.assertRaises(Refused) as refused:
                paper.choose_language(self.ctx, self.key(), paper.ChooseLanguage(*wrong))
            self.assertEqual(list(refused.exception.problems), [field])

    def test_every_language_has_all_that_the_guide_says(self) -> None:
        guide = self.ctx.guide
        cautions = {key for key, one in guide.cautions.items() if one.label}
        purposes = set(guide.methods.purposes) - {"freezer"}
        self.assertGreaterEqual(set(label_languages()), {"de", "fr", "es"})
        for code, one in label_languages().items():
            with self.subTest(language=code):
                self.assertEqual(set(one.pieces), set(guide.pieces))
                self.assertEqual(set(one.cautions), cautions)
                self.assertEqual(set(one.purposes), purposes)
                self.assertEqual(set(one.allergens), {"fish", *usual_packing().allergens.values()})
                self.assertEqual(len(set(one.months)), 12)
                # a caution is one line of a label
                self.assertLess(max(map(len, one.cautions.values())), 80)

    def test_what_has_no_skin_says_nothing_of_it(self) -> None:
        self.weigh(self.cut(self.tolland, cheek_A=0.03, fillet_A=0.5), "spoon_meat", 0.2)
        said = {}
        while (bag := self.plan().next_bag) is not None:
            sealed = self.seal_bag(bag)
            said[bag.piece.key] = label.label_of(self.ctx, sealed).details
        self.assertEqual(set(said), {"cheek", "spoon_meat", "fillet"})
        self.assertTrue(said["fillet"].startswith("skin on · "), said)
        self.assertNotIn("skin", said["cheek"] + said["spoon_meat"])

    def test_the_allergen_is_that_of_the_kind(self) -> None:
        for species, cm, slot, word in (
            ("european_squid", 30, "tube", "molluscs"),
            ("thornback_ray", 70, "wing_A", "fish"),
        ):
            self.cut(self.tolland, species, cm, **{slot: 0.1})
            bag = self.seal_bag(self.plan().planned[0])
            self.assertIn(f"Contains {word}.", label.label_of(self.ctx, bag).cautions)

    def test_what_a_rule_card_asks_on_the_way_home_stands_on_the_label(self) -> None:
        card = RuleCard(
            "cod", "Skarrow Bay", "Invented for this test", date(2026, 7, 1), skin_patch=True
        )
        rule_cards.save_card(self.ctx, self.key(), rule_cards.SaveCard(card))
        for skin, said in (
            ("on", "Skarrow Bay: 1 piece of 1 fish; skin on."),
            ("off", "a patch of skin."),
        ):
            fish = self.land(self.trip, "cod", 75, party_id=self.tolland, skin=skin).subject_id
            self.weigh(fish, "fillet.A", 0.2)
            printed = label.label_of(self.ctx, self.seal_bag(self.plan().planned[0]))
            self.assertIn(said, " ".join(printed.cautions))
        self.cut(self.tolland, "ling", 90, fillet_A=0.2)
        other = label.label_of(self.ctx, self.seal_bag(self.plan().planned[0]))
        self.assertNotIn("Skarrow Bay", " ".join(other.cautions))

    def test_no_split_gives_a_party_what_it_does_not_take(self) -> None:
        for _ in range(3):
            self.cut(self.tolland, "mackerel", 36, fillet_A=0.15, fillet_B=0.15)
            self.cut(self.marsh, fillet_A=0.5)
        self.wish(self.marsh, "", "histamine")
        for how in (sharing.EQUAL, sharing.TURN, sharing.SHARES):
            shares = ((self.tolland, 1), (self.marsh, 2))
            sharing.share_out(self.ctx, self.key(), sharing.ShareOut(self.trip, how, shares))
            marsh = self.plan().columns[1].planned
            self.assertEqual({b.species.key for b in marsh}, {"cod"}, how)
        self.wish(self.tolland, "", "mackerel")
        # nobody takes it: it is nobody's until somebody decides by hand
        last = self.plan().columns[-1]
        self.assertEqual(last.party_id, "")
        self.assertEqual({b.species.key for b in last.planned}, {"mackerel"})

    def test_its_own_fish_that_it_does_not_take_is_said(self) -> None:
        self.cut(self.marsh, "mackerel", 36, fillet_A=0.15)
        self.assertEqual(self.plan().unwanted(self.plan().next_bag), "")
        self.wish(self.marsh, "", "histamine")
        self.assertEqual(self.plan().unwanted(self.plan().next_bag), "histamine")

    def test_what_cannot_be_is_refused_at_its_field(self) -> None:
        other = trips.view_trip(self.ctx, self.start_trip(name="Other")).parties[0].id
        for args, field in (
            ((self.marsh, "x" * 41), "note"),
            ((self.marsh, "", "kraken"), "without"),
            ((other, "x"), "party"),
        ):
            with self.subTest(args=args), self.assertRaises(Refused) as caught:
                self.wish(*args)
            self.assertEqual(list(caught.exception.problems), [field])
