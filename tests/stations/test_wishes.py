"""Wishes reach the board that cuts the fish, the bag and its label; what was done stays done."""

import sqlite3

from lepidos.core.errors import Conflict, Refused
from lepidos.stations.pack import label, pack, portioning
from lepidos.stations.schedule.order import bench_order
from lepidos.stations.table import findings, fish_view, steps, weighing, wishes
from lepidos.stations.table.said import Said
from lepidos.stations.trips import trips
from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import yieldbook
from lepidos.store.file import migrate
from lepidos.store.file.database import Store
from tests.app import AppTest


class WishTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.party, self.other = trips.view_trip(self.ctx, self.trip).parties
        self.fish = self.land(self.trip, weight_kg=2.91, party_id=self.party.id).subject_id
        self.theirs = self.land(self.trip, weight_kg=2.8, party_id=self.other.id).subject_id

    def for_fish(self, **said: object) -> str:
        order = wishes.WishForFish(self.fish, Said(**said))
        return wishes.wish_for_fish(self.ctx, self.key(), order).subject_id

    def of_party(self, species: str = "", **said: object) -> str:
        order = wishes.WishOfParty(self.party.id, Said(**said), species)
        return wishes.wish_of_party(self.ctx, self.key(), order).subject_id

    def of_crew(self, species: str = "pollack", size: str = "", **said: object) -> str:
        order = wishes.WishOfCrew(species, Said(**said), size)
        return wishes.wish_of_crew(self.ctx, self.key(), order).subject_id

    def view(self, fish: str = "") -> fish_view.TableView:
        return fish_view.view_fish(self.ctx, fish or self.fish)

    def purpose(self, fish: str = "") -> str:
        return self.view(fish).plan.purpose


class PaceTest(WishTest):
    def test_with_nothing_learned_a_fish_takes_the_minutes_of_its_plan(self) -> None:
        view = self.view()
        self.assertAlmostEqual(view.usual_minutes, view.plan.minutes)

    def test_another_wish_is_another_time_for_it_and_for_no_other(self) -> None:
        before, theirs = self.view().usual_minutes, self.view(self.theirs).usual_minutes
        self.for_fish(purpose="raw")
        view = self.view()
        self.assertNotAlmostEqual(view.usual_minutes, before)
        self.assertAlmostEqual(view.usual_minutes, view.plan.minutes)
        self.assertAlmostEqual(self.view(self.theirs).usual_minutes, theirs)
        self.of_crew(purpose="raw")
        other = self.view(self.theirs)
        self.assertAlmostEqual(other.usual_minutes, other.plan.minutes)
        self.assertNotAlmostEqual(other.usual_minutes, theirs)


class WhoseWordTest(WishTest):
    def test_fish_before_party_before_crew(self) -> None:
        self.assertEqual(self.purpose(), "freezer")
        self.of_crew(purpose="smoke")
        self.assertEqual((self.purpose(), self.purpose(self.theirs)), ("smoke", "smoke"))
        self.of_party(purpose="grill")
        self.assertEqual((self.purpose(), self.purpose(self.theirs)), ("grill", "smoke"))
        self.for_fish(purpose="raw")
        self.assertEqual((self.purpose(), self.purpose(self.theirs)), ("raw", "smoke"))
        self.assertEqual(self.view().how.choice.said_by["purpose"], "this fish")

    def test_a_word_for_one_fish_leaves_what_it_does_not_speak_of_to_the_others(self) -> None:
        self.of_crew(purpose="fry")
        self.for_fish(skin="off")
        plan = self.view().plan
        self.assertEqual((plan.purpose, plan.skin), ("fry", "off"))

    def test_the_crews_word_on_a_size_is_of_that_size_and_kept_for_the_next_trip(self) -> None:
        self.of_crew(size="large", purpose="smoke")
        self.assertEqual(self.purpose(), "freezer")
        large = self.land(self.trip, cm=120, weight_kg=15.0).subject_id
        self.assertEqual(self.purpose(large), "smoke")
        next_trip = self.start_trip()
        again = self.land(next_trip, cm=118, weight_kg=14.0).subject_id
        self.assertEqual(self.purpose(again), "smoke")

    def test_one_field_is_changed_and_the_others_stay(self) -> None:
        self.for_fish(purpose="fry", ways=("head:off",))
        self.for_fish(skin="off")
        plan = self.view().plan
        self.assertEqual(
            (plan.purpose, plan.skin, plan.taken["head"].option), ("fry", "off", "off")
        )
        self.for_fish(ways=("head:",))
        self.assertNotEqual(self.view().plan.taken["head"].because, "your way")

    def test_purpose_changes_steps_pieces_minutes_and_questions(self) -> None:
        before = self.view()
        self.for_fish(purpose="oven")
        after = self.view()
        self.assertNotEqual([s.step.key for s in before.steps], [s.step.key for s in after.steps])
        self.assertIn("fillet.A", before.expected)
        self.assertNotIn("fillet.A", after.expected)
        self.assertLess(after.plan.minutes, before.plan.minutes)

    def test_what_cannot_be_is_refused_at_its_field_and_nothing_is_kept(self) -> None:
        puffer = next(
            s for s in self.ctx.guide.species.values() if "roe" in self.ctx.guide.never_used(s)
        )
        for said, field in (
            ({"purpose": "mummify"}, "purpose"),
            ({"skin": "inside out"}, "skin"),
            ({"ways": ("head:sideways",)}, "ways"),
            ({"ways": ("tail:off",)}, "ways"),
            ({"pieces": ("feather.A:raw",)}, "pieces"),
            ({"keeps": ("feather",)}, "keeps"),
            ({"tools": ("axe",)}, "tools"),
            ({}, "purpose"),
        ):
            with self.subTest(said=said), self.assertRaises(Refused) as caught:
                self.for_fish(**said)
            self.assertIn(field, caught.exception.problems)
        with self.assertRaises(Refused) as caught:
            self.of_crew(puffer.key, keeps=("roe",))
        self.assertIn("poisonous", caught.exception.problems["keeps"])
        self.assertEqual(self.view().how.choice.said_by, {})

    def test_a_size_without_a_kind_is_refused(self) -> None:
        with self.assertRaises(Refused) as caught:
            self.of_crew("", "large", purpose="smoke")
        self.assertIn("size", caught.exception.problems)

    def test_only_what_is_new_is_said(self) -> None:
        said = Said(purpose="raw", skin="", keeps=("collar",))
        order = wishes.WishOfParty(self.party.id, said)
        done = wishes.wish_of_party(self.ctx, self.key(), order)
        self.assertEqual(done.sentence, f"{self.party.name}: to be eaten raw; asks for collars")
        order = wishes.WishOfParty(self.party.id, Said(purpose="", skin="", keeps=("collar",)))
        done = wishes.wish_of_party(self.ctx, self.key(), order)
        self.assertEqual(done.sentence, f"{self.party.name}: purpose as usual")

    def test_a_piece_is_named_with_its_side(self) -> None:
        order = wishes.WishForFish(self.fish, Said(pieces=("fillet.B:raw",)))
        done = wishes.wish_for_fish(self.ctx, self.key(), order)
        self.assertEqual(done.sentence, "P1: fillet B to be eaten raw")

    def test_undone_it_is_as_before(self) -> None:
        row = self.for_fish(purpose="raw")
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("wish", row))
        self.assertEqual(self.purpose(), "freezer")

    def test_what_a_party_asks_for_is_said_at_the_board_until_it_is_weighed(self) -> None:
        self.of_party(keeps=("collar", "roe"))
        view = self.view()
        self.assertEqual(view.how.choice.keeps, ("collar", "roe"))
        self.assertEqual(view.how.choice.said_by["collar"], self.party.name)
        self.assertEqual(view.missed, ("roe",))  # no step of a plan gives roe
        self.assertEqual(self.view(self.theirs).how.choice.keeps, ())

    def test_the_order_of_work_counts_the_minutes_of_the_plan_that_was_chosen(self) -> None:
        with self.ctx.store.reading():
            before = bench_order(self.ctx, trips.get_trip(self.ctx, self.trip)).of_fish(self.fish)
        self.for_fish(purpose="oven")
        with self.ctx.store.reading():
            after = bench_order(self.ctx, trips.get_trip(self.ctx, self.trip)).of_fish(self.fish)
        assert before is not None
        assert after is not None
        self.assertLess(after.minutes, before.minutes)


class SettledTest(WishTest):
    def test_with_the_first_fillet_a_fishs_plan_is_its_own(self) -> None:
        self.of_party(purpose="raw")
        self.weigh(self.fish, "fillet.A", 0.5)
        for change in (
            lambda: self.of_crew(purpose="smoke"),
            lambda: self.of_party(purpose="grill"),
        ):
            change()
            self.assertEqual(self.purpose(), "raw")
        for said in ({"purpose": "smoke"}, {"skin": "on"}):
            with self.assertRaisesRegex(Refused, "weighed already"):
                self.for_fish(**said)
        figure = self.view().fillet_yield
        assert figure is not None
        self.assertEqual(figure.numerator, "fillets, skinless")

    def test_a_finished_fish_of_plain_ways_stays_plain(self) -> None:
        self.weigh(self.fish, "gut", 0.3)
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish))
        self.of_crew(purpose="smoke")
        self.assertEqual(self.purpose(), "freezer")

    def test_with_its_fillets_undone_a_fish_hears_wishes_again(self) -> None:
        self.of_party(purpose="raw")
        done = self.weigh(self.fish, "fillet.A", 0.5)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("weighing", done.subject_id))
        self.of_party(purpose="fry")
        plan = self.view().plan
        self.assertEqual((plan.purpose, plan.skin), ("fry", "on"))

    def test_a_fish_opened_again_without_a_fillet_hears_wishes_again(self) -> None:
        self.weigh(self.fish, "gut", 0.3)
        done = steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish))
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("fact", done.subject_id))
        self.of_crew(purpose="smoke")
        self.assertEqual(self.purpose(), "smoke")

    def test_a_corrected_fillet_leaves_the_plan_settled(self) -> None:
        self.of_party(purpose="raw")
        row = self.weigh(self.fish, "fillet.A", 0.5).subject_id
        order = weighing.CorrectWeighing(row, 0.48)
        weighing.correct_weighing(self.ctx, self.key(), order)
        self.of_party(purpose="fry")
        self.assertEqual(self.purpose(), "raw")

    def test_a_fish_with_one_side_skinned_teaches_no_yield_and_is_foreseen_between(self) -> None:
        on = self.view().expected_fillet.value
        self.for_fish(skin="off")
        off = self.view().expected_fillet.value
        self.for_fish(skin="on", pieces=("fillet.B:raw",))
        mixed = self.view()
        self.assertTrue(off < mixed.expected_fillet.value < on)
        slots = [mixed.expected[s.key].value for s in mixed.fillet_slots]
        self.assertAlmostEqual(sum(slots), mixed.expected_fillet.value, places=6)
        for slot, kg in (
            ("fillet.A", 0.5),
            ("fillet.B", 0.45),
            ("belly.A", 0.08),
            ("belly.B", 0.08),
        ):
            self.weigh(self.fish, slot, kg)
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish))
        self.assertEqual(self.view(self.theirs).learned.learned_from, 0)

    def test_a_wish_is_not_undone_under_weighed_fillets(self) -> None:
        row = self.for_fish(purpose="raw")
        self.weigh(self.fish, "fillet.A", 0.5)
        with self.assertRaises(Conflict):
            undo.undo_row(self.ctx, self.key(), undo.UndoRow("wish", row))

    def test_a_file_of_schema_8_keeps_its_cut_fish_as_they_were(self) -> None:
        path = self.folder / "old.sqlite"
        raw = sqlite3.connect(path, isolation_level=None)
        migrate.up(raw, to=8)
        raw.execute(
            "INSERT INTO trip (id, name, kind, harbour, on_date, timezone, started_at) VALUES "
            "('t', 'Marram Lass', 'boat', 'Skarrow Quay', '2026-07-14', 'UTC', "
            "'2026-07-14T06:00:00.000Z')"
        )
        for fish, kg in (("cut", 0.5), ("waits", 0.0)):
            raw.execute(
                "INSERT INTO fish (id, trip_id, code, species, skin, landed_at) VALUES "
                f"('{fish}', 't', '{fish}', 'pollack', 'off', '2026-07-14T08:00:00.000Z')"
            )
            raw.execute(
                "INSERT INTO fish_now (fish_id, trip_id, species, stage, facts, length_m, "
                "length_type, weighed_kg, fillet_kg) VALUES "
                f"('{fish}', 't', 'pollack', 'table', '', 0.6, 'total', {kg}, {kg})"
            )
        raw.close()
        store = Store.open(path)
        self.addCleanup(store.close)
        rows = sqlite3.connect(path).execute("SELECT fish_id, skin, settled FROM wish").fetchall()
        self.assertEqual(rows, [("cut", "off", 1)])


class PieceTest(WishTest):
    def test_scraps_of_a_fish_for_raw_are_not_for_raw(self) -> None:
        self.of_party(purpose="raw")
        fillet = self.weigh(self.fish, "fillet.A", 0.5).subject_id
        spoon = self.weigh(self.fish, "spoon_meat", 0.05).subject_id
        rows = {r.weighing.id: r for r in pack.list_pieces(self.ctx, self.trip).waiting}
        self.assertEqual((rows[fillet].purpose, rows[spoon].purpose), ("raw", "freezer"))

    def test_an_eels_bag_never_says_raw_whoever_wished_it(self) -> None:
        self.of_party(purpose="raw", pieces=("fillet.B:raw",))
        eel = self.land(self.trip, "european_eel", 60, party_id=self.party.id).subject_id
        self.assertEqual(self.view(eel).plan.purpose, "fry")
        sides = [self.weigh(eel, f"fillet.{side}", 0.06).subject_id for side in "AB"]
        rows = {r.weighing.id: r for r in pack.list_pieces(self.ctx, self.trip).waiting}
        self.assertEqual([rows[side].purpose for side in sides], ["fry", "fry"])
        for side in sides:
            self.assertNotIn("raw", label.label_of(self.ctx, self.seal(side).subject_id).details)

    def test_what_was_seen_on_a_fish_goes_before_a_wish_for_raw(self) -> None:
        self.of_party(purpose="raw")
        side = self.weigh(self.fish, "fillet.A", 0.5).subject_id
        never = next(s.key for s in self.ctx.guide.findings.kinds if s.raw == "never")
        findings.note_sight(self.ctx, self.key(), findings.NoteSight(self.fish, never))
        said = label.label_of(self.ctx, self.seal(side).subject_id)
        self.assertNotIn("raw", said.details)

    def test_a_piece_is_not_cooked_whole(self) -> None:
        with self.assertRaises(Refused) as caught:
            self.for_fish(pieces=("fillet.A:oven",))
        self.assertIn("pieces", caught.exception.problems)

    def test_a_piece_of_its_own_purpose_reaches_the_bag_and_its_label(self) -> None:
        self.for_fish(pieces=("fillet.B:raw",))
        side_a = self.weigh(self.fish, "fillet.A", 0.55).subject_id
        side_b = self.weigh(self.fish, "fillet.B", 0.5).subject_id
        figure = self.view().fillet_yield
        assert figure is not None
        self.assertEqual(figure.numerator, "fillets, some with their skin")
        book = yieldbook.view_book(self.ctx, self.trip)
        self.assertIn(
            "some with their skin",
            next(r for r in book.rows if r.fish.id == self.fish).fillet_yield.numerator,
        )
        rows = {r.weighing.id: r for r in pack.list_pieces(self.ctx, self.trip).waiting}
        self.assertEqual((rows[side_a].skin, rows[side_a].purpose), ("on", "freezer"))
        self.assertEqual((rows[side_b].skin, rows[side_b].purpose), ("off", "raw"))
        raw = label.label_of(self.ctx, self.seal(side_b).subject_id)
        self.assertIn("to be eaten raw", raw.details)
        spoon = self.weigh(self.fish, "spoon_meat", 0.05).subject_id
        rows = {r.weighing.id: r for r in pack.list_pieces(self.ctx, self.trip).waiting}
        self.assertEqual(rows[spoon].purpose, "freezer")
        self.assertTrue(any("parasite" in c.lower() for c in raw.cautions), raw.cautions)
        plain = label.label_of(self.ctx, self.seal(side_a).subject_id)
        self.assertNotIn("raw", plain.details)

    def test_pieces_for_different_purposes_do_not_share_a_bag(self) -> None:
        self.of_party(pieces=("collar.A:smoke",))
        for fish in (self.fish, self.theirs):
            self.weigh(fish, "collar.A", 0.04)
        rows = pack.list_pieces(self.ctx, self.trip).waiting
        mine = next(r for r in rows if r.fish.id == self.fish)
        found = pack.view_piece(self.ctx, mine.weighing.id, portioning.Marks())
        self.assertEqual(found.partners, ())
