"""A fish that the guide lacks, landed as the kind nearest to it."""

from dataclasses import replace

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.hazards import at_landing, cautions_by_step
from lepidos.core.errors import Refused, Unknown
from lepidos.guide.own import forget
from lepidos.stations.base.own_measures import as_measured
from lepidos.stations.deck import slab
from lepidos.stations.deck.landing_check import LandFish
from lepidos.stations.guide import nearest, own_guide
from lepidos.stations.guide.planner import AskPlan, plan_fish
from lepidos.store.deck import fishes
from tests.app import AppTest


class NearestTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def land_near(self, called: str = "blue whiting", key: str = "", **more: object) -> str:
        order = LandFish(self.trip, "pollack", 0.4, "total", called=called)
        near = replace(order, **more)
        return nearest.land_nearest(self.ctx, key or self.key(), near).subject_id

    def own_keys(self) -> list[str]:
        return [own.key for own in own_guide.list_own(self.ctx)]

    def test_it_is_marked_so_and_cut_like_its_nearest_kind(self) -> None:
        self.land_near()
        (row,) = slab.view_slab(self.ctx, self.trip).waiting
        self.assertEqual(row.species.name, "blue whiting (like pollack)")
        self.assertEqual((row.species.nearest, row.species.scientific), ("pollack", ""))
        self.assertTrue(row.fish.code.startswith("B"), row.fish.code)
        like = plan_fish(self.ctx.guide, AskPlan("pollack", 0.4)).cut
        own = plan_fish(self.ctx.guide, AskPlan(row.species.key, 0.4)).cut
        self.assertEqual([s.key for s in own.steps], [s.key for s in like.steps])

    def test_less_is_known_of_it_and_it_warns_at_landing_and_at_the_first_cut(self) -> None:
        self.land_near()
        (key,) = self.own_keys()
        guide = self.ctx.guide
        one, near = guide.one(key), guide.one("pollack")
        wide, usual = (weight_from_length(0.5, "total", s) for s in (one, near))
        self.assertGreater(wide.high / wide.low, 1.3 * usual.high / usual.low)
        self.assertAlmostEqual(one.yields.fillet_skinless.sd, 1.5 * near.yields.fillet_skinless.sd)
        self.assertEqual(at_landing(one, guide.cautions)[0], "not_known")
        cut = plan_fish(guide, AskPlan(key, 0.4)).cut
        self.assertIn("not_known", cautions_by_step(cut, one, guide.cautions)[cut.steps[0].key])

    def test_a_name_of_what_is_poison_is_answered_with_that(self) -> None:
        order = LandFish(self.trip, "pollack", 0.4, "total", called="lagokefalos")
        answer = nearest.land_nearest(self.ctx, self.key(), order)
        self.assertIn("silver-cheeked toadfish", answer.question)
        self.assertIn("neither cooking nor freezing", answer.question)
        for harmless in ("blue whiting", "", "witch"):
            order = replace(order, called=harmless)
            answer = nearest.land_nearest(self.ctx, self.key(), order)
            self.assertNotIn("may be: ", answer.question, harmless)

    def test_the_next_of_it_is_of_the_same_kind_and_another_name_is_another(self) -> None:
        first, second = self.land_near(), self.land_near("Blue  whiting ".lower())
        third = self.land_near("")
        with self.ctx.store.reading():
            kinds = [fishes.get(f).species for f in (first, second, third)]
        self.assertEqual(kinds[0], kinds[1])
        self.assertEqual(len(set(kinds)), 2)
        self.assertEqual(self.ctx.guide.one(kinds[2]).name, "unknown fish (like pollack)")

    def test_one_landed_as_like_such_a_fish_is_like_its_nearest_kind(self) -> None:
        self.land_near()
        (key,) = self.own_keys()
        self.land_near("silvery pout", species=key)
        names = sorted(self.ctx.guide.one(k).name for k in self.own_keys())
        self.assertEqual(names, ["blue whiting (like pollack)", "silvery pout (like pollack)"])

    def test_a_refused_landing_leaves_no_kind_behind(self) -> None:
        for more, field in (({"length_m": 9.0}, "length"), ({"skin": "half"}, "skin")):
            with self.subTest(field=field), self.assertRaises(Refused) as caught:
                self.land_near(**more)
            self.assertIn(field, caught.exception.problems)
        with self.assertRaises(Unknown):
            self.land_near(species="mermaid")
        for called in ("x" * 31, "<b>", '"', "a\nb = 1\\"):
            with self.subTest(called=called), self.assertRaises(Refused) as caught:
                self.land_near(called)
            self.assertIn("called", caught.exception.problems)
        self.assertEqual(self.own_keys(), [])
        self.assertFalse([s for s in self.ctx.guide.species.values() if s.nearest])

    def test_a_retried_request_lands_one_fish_of_one_kind(self) -> None:
        key = self.key()
        first, again = self.land_near(key=key), self.land_near(key=key)
        self.assertEqual(first, again)
        self.assertEqual(len(slab.view_slab(self.ctx, self.trip).waiting), 1)
        self.assertEqual(len(self.own_keys()), 1)

    def test_it_teaches_nothing_about_its_nearest_kind(self) -> None:
        self.land_near(weight_kg=0.9)
        near = self.ctx.guide.one("pollack")
        with self.ctx.store.reading():
            self.assertEqual(as_measured(self.ctx, near), (near, 0))

    def test_letters_that_others_use_give_another_code(self) -> None:
        for name in ("pollard", "pouting cousin", "pollard two", "日本 魚"):
            self.land_near(name)
        codes = [one.code for one in self.ctx.guide.species.values()]
        self.assertEqual(len(codes), len(set(codes)))

    def test_it_is_there_after_a_restart_whatever_the_order(self) -> None:
        self.land_near()
        (key,) = self.own_keys()
        forget(self.ctx.guide, "species", key)
        self.assertEqual(own_guide.take_in(self.ctx), [])
        self.assertEqual(self.ctx.guide.one(key).nearest, "pollack")
