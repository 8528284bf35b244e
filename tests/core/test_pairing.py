"""Pairing: what is found, how sure, and why."""

import unittest
from typing import Any

import msgspec
from hypothesis import given, settings
from hypothesis import strategies as st

from avelt.core.edits.frames import next_state
from avelt.core.model.find import find_frame, find_layer, frame_by_id
from avelt.core.model.values import Decision, Frame
from avelt.core.pairing import candidates
from avelt.core.pairing.engine import pair_frames
from avelt.core.pairing.explain import reasons, why_alone
from avelt.core.pairing.facts import normal_name
from avelt.core.timing.relatives import relatives
from avelt.demo.build import build_demo
from tests.support import box, group, oval, project_of, text

replace = msgspec.structs.replace


def frames(left: Any, right: Any) -> Any:
    return Frame("A", "A", 200, 200, layers=tuple(left)), Frame("B", "B", 200, 200, layers=tuple(right))


def found(left: Any, right: Any, decisions: Any = ()) -> set[tuple[str, str]]:
    pairing = pair_frames(*frames(left, right), tuple(decisions))
    return {(pair.from_id, pair.to_id) for pair in pairing.pairs}


class Finding(unittest.TestCase):
    def test_by_name_wherever_it_went(self) -> None:
        left = [box("a1", 0, 0, 20, 20, name="Card"), box("a2", 50, 50, 20, 20, name="Hero")]
        right = [box("b1", 150, 150, 90, 9, "#ff0000", name="Hero"), box("b2", 90, 10, 20, 20, name="card copy 2")]
        self.assertEqual(found(left, right), {("a1", "b2"), ("a2", "b1")})

    def test_by_words_when_names_differ(self) -> None:
        left = [text("t1", "09:15", 10, 10, name="clock"), text("t2", "Grey Stack", 10, 40, name="where")]
        right = [text("u1", "Grey Stack", 80, 80, 30, name="Island"), text("u2", "09:15", 80, 40, 40, name="Time")]
        self.assertEqual(found(left, right), {("t1", "u2"), ("t2", "u1")})

    def test_nameless_layers_by_look_and_spot(self) -> None:
        left = [
            box(f"a{k}", 10 + 40 * k, 10, 30, 30, c, name=f"Box {k}") for k, c in enumerate(("#f00", "#0a0", "#00f"))
        ]
        right = [
            box(f"b{k}", 14 + 40 * k, 12, 30, 30, c, name=f"Box {9 - k}")
            for k, c in enumerate(("#f00", "#0a0", "#00f"))
        ]
        self.assertEqual(found(left, right), {(f"a{k}", f"b{k}") for k in range(3)})

    def test_equal_rows_pair_in_their_order(self) -> None:
        left = [box(f"a{k}", 0, 20 * k, 100, 18, name="Row") for k in range(8)]
        right = [box(f"b{k}", 0, 20 * k + 5, 100, 18, name="Row") for k in range(8)]
        self.assertEqual(found(left, right), {(f"a{k}", f"b{k}") for k in range(8)})

    def test_unlike_things_stay_apart(self) -> None:
        left = [box("a", 0, 0, 100, 20, "#ffffff", name="Search field")]
        right = [oval("b", 150, 150, 10, 10, "#cc0000", name="Alarm dot")]
        self.assertEqual(found(left, right), set())
        self.assertEqual(
            found([text("a", "Yes", name="Agree")], [text("b", "Delete all", 100, 150, 40, name="Danger")]), set()
        )

    def test_a_paired_group_speaks_for_its_children(self) -> None:
        def card(p: Any, x: Any, y: Any, color: Any) -> Any:
            return group(
                p, x, y, (box(p + "1", 0, 0, 40, 40, color, name="Box 1"), box(p + "2", 0, 45, 40, 9, name="Box 2"))
            )

        left = [replace(card("a", 0, 0, "#f00"), name="First"), replace(card("b", 100, 0, "#f00"), name="Second")]
        right = [replace(card("c", 100, 0, "#f00"), name="First"), replace(card("d", 0, 0, "#f00"), name="Second")]
        self.assertLessEqual({("a", "c"), ("b", "d"), ("a1", "c1"), ("b2", "d2")}, found(left, right))

    def test_groups_pair_with_groups_only(self) -> None:
        left = [group("a", 0, 0, (box("a1", 0, 0, 10, 10),), name="Card")]
        right = [box("b", 0, 0, 10, 10, name="Card")]
        self.assertNotIn(("a", "b"), found(left, right))


class Certainty(unittest.TestCase):
    def test_a_copy_is_certain_by_origin(self) -> None:
        project = next_state(project_of((box("a", 0, 0, 9, 9), text("t", "x")), ()), "A")
        pairing = pair_frames(project.frames[0], project.frames[1])
        self.assertEqual([(pair.by, pair.confidence) for pair in pairing.pairs], [("origin", 1.0)] * 2)

    def test_decisions_win(self) -> None:
        left = [box("a1", 0, 0, 20, 20, name="Card"), box("a2", 50, 50, 20, 20, name="Other")]
        right = [box("b1", 0, 0, 20, 20, name="Card"), box("b2", 50, 50, 20, 20, name="Another")]
        together, apart = Decision("a1", "b2", True), Decision("a1", "b1", False)
        self.assertIn(("a1", "b2"), found(left, right, [together]))
        self.assertNotIn(("a1", "b1"), found(left, right, [apart]))
        pairing = pair_frames(*frames(left, right), (together,))
        self.assertEqual(next(p.by for p in pairing.pairs if p.from_id == "a1"), "hand")

    def test_a_choice_between_equals_is_less_sure_than_a_lone_fit(self) -> None:
        lone = pair_frames(*frames([box("a", 0, 0, 20, 20, name="Card")], [box("b", 5, 5, 20, 20, name="Card")]))
        right = [box("b", 5, 5, 20, 20, name="Card"), box("c", 5, 5, 20, 20, name="Card")]
        torn = pair_frames(*frames([box("a", 0, 0, 20, 20, name="Card")], right))
        self.assertGreater(lone.pairs[0].confidence, 0.9)
        self.assertLess(torn.pairs[0].confidence, lone.pairs[0].confidence)

    @settings(deadline=None, max_examples=40)
    @given(
        st.lists(
            st.tuples(st.sampled_from(["Card", "Row", "Box 1", "x"]), st.integers(0, 150), st.integers(0, 150)),
            max_size=12,
        ),
        st.lists(
            st.tuples(st.sampled_from(["Card", "Row", "Box 2", "y"]), st.integers(0, 150), st.integers(0, 150)),
            max_size=12,
        ),
    )
    def test_every_layer_is_in_one_place(self, first: Any, second: Any) -> None:
        left = [box(f"a{k}", x, y, 20, 20, name=n) for k, (n, x, y) in enumerate(first)]
        right = [box(f"b{k}", x, y, 20, 20, name=n) for k, (n, x, y) in enumerate(second)]
        pairing = pair_frames(*frames(left, right))
        self.assertEqual(sorted([p.from_id for p in pairing.pairs] + list(pairing.leaves)), sorted(e.id for e in left))
        self.assertEqual(sorted([p.to_id for p in pairing.pairs] + list(pairing.enters)), sorted(e.id for e in right))
        self.assertTrue(all(0 <= p.confidence <= 1 for p in pairing.pairs))

    def test_large_frames_are_paired_from_few_candidates(self) -> None:
        n = 400
        left = [box(f"a{k}", k % 20 * 10, k // 20 * 10, 8, 8, name=f"Layer number {k}") for k in range(n)]
        right = [box(f"b{k}", k % 20 * 10, k // 20 * 10, 8, 8, name=f"Layer number {k}") for k in range(n)]
        pairing = pair_frames(*frames(left, right))
        self.assertEqual({(p.from_id, p.to_id) for p in pairing.pairs}, {(f"a{k}", f"b{k}") for k in range(n)})
        self.assertLess(len(pairing.edge_i), n * 40)
        self.assertGreater(n * n, candidates.ALL_BELOW)

    def test_frames_without_layers(self) -> None:
        self.assertEqual(pair_frames(*frames([], [])).pairs, ())
        self.assertEqual(pair_frames(*frames([box("a", 0, 0, 1, 1)], [])).leaves, ("a",))


class Explaining(unittest.TestCase):
    def setUp(self) -> None:
        left = [text("t1", "09:15", 10, 10, name="clock"), box("a", 0, 0, 50, 50, name="Old thing")]
        right = [text("u1", "09:15", 80, 40, 40, name="Time"), oval("b", 120, 120, 9, 9, name="New spot")]
        self.pairing = pair_frames(*frames(left, right))

    def test_reasons_are_sentences_with_scores(self) -> None:
        found = {r.what: r for r in reasons(self.pairing, "t1", "u1")}
        self.assertEqual(found["text"].says, "both read “09:15”")
        self.assertEqual(found["text"].score, 1.0)
        self.assertIn("px", found["shape and spot"].says)
        self.assertEqual(found["same origin"].score, 0.0)

    def test_why_a_layer_is_alone(self) -> None:
        self.assertIn("New spot", why_alone(self.pairing, "a", "from"))
        self.assertIn("No partner", why_alone(self.pairing, "b", "to"))

    def test_names_are_compared_without_their_accidents(self) -> None:
        self.assertEqual(normal_name("GreyStack-card copy 3"), normal_name("grey stack_card"))


class Relatives(unittest.TestCase):
    def test_a_layer_is_found_in_every_frame_of_the_demo(self) -> None:
        project = build_demo()
        sailings = find_frame(project, "Sailings")
        family = relatives(project, sailings, find_layer(sailings, "Grey Stack photo"))
        names = {frame_by_id(project, ident).name: layer.name for ident, layer in family.items()}
        self.assertEqual(set(names), {"Sailings", "Sailing detail", "Boarding pass"})
        self.assertEqual(set(names.values()), {"Grey Stack photo"})


class HardFrames(unittest.TestCase):
    """Frames as they come: hundreds of equal rows, nothing named, other sizes, carried to other groups."""

    def rows(self, side: str, words: Any, name: str = "Row", start: float = 0.0) -> Any:
        return [
            group(
                f"{side}{k}",
                0,
                start + 40 * k,
                (
                    box(f"{side}{k}g", 0, 0, 180, 38, "#ffffff", name="Ground"),
                    text(f"{side}{k}t", word, 10, 8, name="Label"),
                ),
                name=name,
            )
            for k, word in enumerate(words)
        ]

    def test_hundreds_of_equal_rows_pair_by_order(self) -> None:
        words = ["Sailing"] * 300
        pairing = found(self.rows("a", words), self.rows("b", words, start=500.0))
        self.assertLessEqual({(f"a{k}t", f"b{k}t") for k in range(300)}, pairing)

    def test_rows_that_changed_places_pair_by_their_words(self) -> None:
        words = [f"Stop {chr(65 + k)}{k}" for k in range(12)]
        other = words[::-1]
        pairing = found(self.rows("a", words), self.rows("b", other))
        self.assertLessEqual({(f"a{k}", f"b{11 - k}") for k in range(12)}, pairing)
        self.assertLessEqual({(f"a{k}g", f"b{11 - k}g") for k in range(12)}, pairing)

    def test_a_row_that_is_gone_leaves_the_others_their_partners(self) -> None:
        words = ["Outer Holm", "Grey Stack", "Sandray", "Kelp Bay"]
        pairing = found(self.rows("a", words), self.rows("b", [words[0], *words[2:]]))
        self.assertLessEqual({("a0", "b0"), ("a2", "b1"), ("a3", "b2"), ("a3g", "b2g")}, pairing)
        self.assertNotIn("a1t", {left for left, _ in pairing})

    def test_everything_named_group_12(self) -> None:
        words = ["Outer Holm", "Grey Stack", "Sandray"]
        left = [replace(layer, name="Group 12") for layer in self.rows("a", words)]
        right = [replace(layer, name="Group 12") for layer in self.rows("b", words[::-1])]
        self.assertEqual({(f"a{k}", f"b{2 - k}") for k in range(3)} - found(left, right), set())

    def test_frames_of_other_sizes_compare_by_share(self) -> None:
        left = [box("a1", 10, 10, 40, 40, name="1"), box("a2", 150, 150, 40, 40, name="2")]
        right = [box("b1", 30, 30, 120, 120, name="3"), box("b2", 450, 450, 120, 120, name="4")]
        pairing = pair_frames(
            Frame("A", "A", 200, 200, layers=tuple(left)), Frame("B", "B", 600, 600, layers=tuple(right))
        )
        self.assertEqual(pairing.to_of, {"a1": "b1", "a2": "b2"})

    def test_carried_to_another_group(self) -> None:
        left = [group("g", 0, 0, (box("a", 10, 10, 30, 30, "#f00", name="Badge"), box("x", 60, 10, 9, 9, name="Dot")))]
        right = [
            group("h", 0, 0, (box("y", 60, 10, 9, 9, name="Dot"),), name="g"),
            box("b", 10, 10, 30, 30, "#f00", name="Badge"),
        ]
        self.assertIn(("a", "b"), found(left, right))

    def test_thousands_of_equal_layers_and_none_at_all(self) -> None:
        many = [box(f"a{k}", k % 70, k // 70, 1, 1, name="Dot") for k in range(5000)]
        pairing = pair_frames(
            *frames(many, [replace(layer, id="b" + layer.id, origin="b" + layer.id) for layer in many])
        )
        self.assertEqual(len(pairing.pairs), 5000)
        right = [p.to_id == "b" + p.from_id for p in pairing.pairs]
        self.assertGreater(sum(right), 4900)
        self.assertEqual(len(pair_frames(*frames(many, [])).leaves), 5000)

    def test_a_decision_survives_renames_moves_and_a_new_neighbour(self) -> None:
        left = [box("a1", 0, 0, 20, 20, name="Card"), box("a2", 50, 50, 20, 20, name="Other")]
        right = [box("b1", 0, 0, 20, 20, name="Card"), box("b2", 50, 50, 20, 20, name="Another")]
        decision = Decision("a1", "b2", True)
        changed = [replace(left[0], name="Renamed", x=150.0), *left[1:], box("a3", 0, 0, 20, 20, name="Another")]
        self.assertIn(("a1", "b2"), found(changed, right, [decision]))


class Sentences(unittest.TestCase):
    def name_says(self, left: Any, right: Any) -> str:
        pairing = pair_frames(*frames(left, right))
        return next(r.says for r in reasons(pairing, left[0].id, right[0].id) if r.what == "name")

    def test_near_misses_doubles_and_other_kinds_are_told_apart(self) -> None:
        self.assertIn(
            "1 letter apart",
            self.name_says([box("a", 0, 0, 9, 9, name="Hero card")], [box("b", 0, 0, 9, 9, name="Hero cart")]),
        )
        twice = [box("a", 0, 0, 9, 9, name="Card"), box("c", 20, 0, 9, 9, name="Card")]
        self.assertIn("2 / 1 times", self.name_says(twice, [box("b", 0, 0, 9, 9, name="Card")]))
        self.assertIn(
            "but are box and text", self.name_says([box("a", 0, 0, 9, 9, name="Card")], [text("b", "x", name="Card")])
        )

    def test_a_layer_alone_names_the_nearest_and_what_speaks_against_it(self) -> None:
        left = [text("a", "Deck C, 42 minutes", 10, 10, name="Deck remark")]
        right = [text("b", "Grey Stack", 10, 150, 40, name="Island name")]
        says = why_alone(pair_frames(*frames(left, right)), "a", "from")
        self.assertTrue(says.startswith("No partner: the nearest, “Island name”, "), says)
        self.assertIn("has other words", says)
        self.assertRegex(says, r"is \d+ px away")
