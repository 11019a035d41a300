"""Keys for fish that look alike."""

import unittest
from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from lepidos.core.errors import BadInput, Unknown
from lepidos.core.fish.identification import LookAlike, stand
from lepidos.guide.library import load_guide

GUIDE = load_guide()
KEYS = GUIDE.lookalikes


class KeyTest(unittest.TestCase):
    def test_the_guide_has_the_keys_a_dock_needs(self) -> None:
        self.assertLessEqual({"jacks", "snappers", "flatfish", "gadoids", "weevers"}, set(KEYS))

    def test_a_fish_that_the_guide_has_is_said_to_be_in_it(self) -> None:
        checked = 0
        for key in KEYS.values():
            for one in key.candidates:
                plain = one.name.split(" (")[0]
                try:
                    known = GUIDE.find(plain).key
                except Unknown:
                    known = ""
                checked += bool(known)
                with self.subTest(key=key.key, fish=one.name):
                    self.assertEqual(one.species, known)
        self.assertGreater(checked, 20)

    def test_there_is_a_key_for_each_group_that_is_confused(self) -> None:
        self.assertGreaterEqual(len(KEYS), 20)
        # their rules differ: a protected one has to be told from its like
        for careful, key in (("gag", "groupers"), ("chinook_salmon", "pacific_salmon"), ("bluefin_tuna", "tunas"),
                             ("speckled_hind", "groupers"), ("red_drum", "drums"), ("permit", "pompanos")):  # fmt: skip
            self.assertIn(careful, {c.species for c in KEYS[key].candidates})

    def test_any_two_fish_of_a_key_are_told_apart_by_one_of_its_questions(self) -> None:
        for key in KEYS.values():
            for one, other in combinations(key.candidates, 2):
                apart = any(
                    (one.key in a.leaves) != (other.key in a.leaves)
                    for q in key.questions
                    for a in q.answers
                )
                with self.subTest(key=key.key, fish=(one.key, other.key)):
                    self.assertTrue(apart)

    def test_every_fish_has_an_answer_to_every_question(self) -> None:
        # or a true answer would throw the right fish out
        for key in KEYS.values():
            for question in key.questions:
                covered = {fish for a in question.answers for fish in a.leaves}
                missing = {c.key for c in key.candidates} - covered
                with self.subTest(key=key.key, question=question.key):
                    self.assertEqual(missing, set())

    def test_each_key_says_what_stays_after_death(self) -> None:
        for key in KEYS.values():
            self.assertRegex(key.after_death, r"stay|sting|same plates|Nothing that is asked")

    def test_the_tell_is_drawn_in_every_question(self) -> None:
        for key in KEYS.values():
            for question in key.questions:
                with self.subTest(key=key.key, question=question.key):
                    drawn = {a.sketch for a in question.answers}
                    self.assertEqual(len(drawn), len(question.answers))

    def test_each_answer_narrows_the_list_down_to_one(self) -> None:
        answers = ["body.three", "barbel.clear"]
        left = [len(stand(KEYS["gadoids"], answers[:k]).left) for k in range(len(answers) + 1)]
        self.assertEqual(left, sorted(left, reverse=True))
        (one,) = stand(KEYS["gadoids"], answers).left
        self.assertEqual(one.key, "cod")

    def test_every_fish_can_be_reached_and_every_answer_is_drawn_or_worded(self) -> None:
        for key in KEYS.values():
            for fish in key.candidates:
                with self.subTest(key=key.key, fish=fish.key):
                    answers = [
                        f"{q.key}.{a.key}"
                        for q in key.questions
                        for a in q.answers
                        if fish.key in a.leaves
                    ]
                    # one answer a question: the first that fits this fish
                    first = {a.split(".")[0]: a for a in reversed(answers)}
                    found = stand(key, list(first.values()))
                    self.assertIn(fish, found.left)
                    self.assertFalse(found.clash)

    def test_answers_that_fit_no_fish_together_are_said_to_clash(self) -> None:
        found = stand(KEYS["gadoids"], ["body.two", "barbel.none"])
        self.assertTrue(found.clash)
        self.assertEqual(found.left, ())

    def test_a_later_answer_replaces_an_earlier_to_the_same_question(self) -> None:
        found = stand(KEYS["gadoids"], ["body.two", "body.three"])
        self.assertEqual(len(found.answered), 1)
        self.assertNotIn("ling", [c.key for c in found.left])

    def test_what_the_key_does_not_ask_is_an_error(self) -> None:
        for text in ("", "body", "body.nine", "x.y", "body.two.three"):
            with self.subTest(text=text), self.assertRaises(BadInput):
                stand(KEYS["gadoids"], [text])

    @given(st.sampled_from(list(KEYS)), st.data())
    def test_asking_goes_on_only_while_it_helps(self, name: str, data: st.DataObject) -> None:
        key, answers = KEYS[name], []
        standing = stand(key, answers)
        while standing.next:
            answer = data.draw(st.sampled_from(standing.next.answers))
            answers.append(f"{standing.next.key}.{answer.key}")
            after = stand(key, answers)
            self.assertLessEqual(len(after.left), len(standing.left))
            standing = after
        self.assertLessEqual(len(answers), len(key.questions))

    def test_what_was_answered_is_not_asked_again(self) -> None:
        asked = 0
        for key in KEYS.values():
            for question in key.questions:
                for answer in question.answers:
                    standing = stand(key, [f"{question.key}.{answer.key}"])
                    if standing.next is None:
                        continue
                    asked += 1
                    self.assertNotEqual(standing.next.key, question.key, (key.key, answer.key))
        self.assertGreater(asked, 10)

    def test_a_key_whose_parts_do_not_fit_is_refused_when_it_is_read(self) -> None:
        raw = KEYS["weevers"].model_dump()
        raw["questions"][0]["answers"][0]["leaves"] = ["mermaid"]
        with self.assertRaisesRegex(ValidationError, "unknown fish"):
            LookAlike(**raw)


if __name__ == "__main__":
    unittest.main()
