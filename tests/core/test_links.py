"""Linked presets: changed once, all uses change; what was changed by hand stays its own."""

import tempfile
import unittest
from pathlib import Path

from msgspec.structs import replace

from avelt.core.edits.cues import space_of_cues
from avelt.core.edits.loops import edit_loop, remove_loop
from avelt.core.edits.parts import in_stage, make_part
from avelt.core.edits.routes import remove_route, set_cue, set_duration
from avelt.core.errors import EditError, FormatError
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import from_json as project_from
from avelt.core.formats.project_file import to_json as project_to
from avelt.core.model.curves import Handles, Spring
from avelt.core.model.find import frame_by_id, route_by_id
from avelt.core.model.motion import CueKey, PairKey
from avelt.core.model.parts import part_by_id
from avelt.core.model.values import Project
from avelt.core.presets.adjusted import How
from avelt.core.presets.links import carried, cut_loose, put_linked, refreshed, reset, take_changed, uses
from avelt.core.presets.places import Where
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.record import capture_part
from avelt.core.presets.shelf import built_in
from avelt.core.presets.values import Preset
from avelt.core.presets.where_used import remember, used
from avelt.core.timing.schedule import timed
from tests.core.test_preset_kinds import other, scene

A, B = PairKey("e", "f"), PairKey("g", "h")


def by_name(name: str) -> Preset:
    return next(preset for preset in built_in() if preset.name == name)


CALM = by_name("Calm crossing")


def quicker(preset: Preset, share: float = 0.5) -> Preset:
    """An improved version: it ends earlier and has another curve."""
    return replace(preset, cues=(replace(preset.cues[0], end=share, curve=Spring(0.1)), *preset.cues[1:]))


class Links(unittest.TestCase):
    def setUp(self) -> None:
        project = set_duration(scene(), other(scene()), 400.0)
        self.route = other(project)
        self.project = put_linked(project, CALM, Where((self.route,), (A, B))).project

    def when(self, project: Project, pair: PairKey) -> tuple[float, float]:
        found = timed(project, route_by_id(project, self.route).transition, *pair, "")
        return found.start, found.end

    def test_one_link_a_pair_and_the_preset_travels(self) -> None:
        self.assertEqual([link.pairs for link in self.project.links], [(A,), (B,)])
        again = project_from(project_to(self.project), "x")
        self.assertEqual(again, self.project)
        self.assertEqual(carried(again, CALM.name), CALM)

    def test_all_uses_change_with_it(self) -> None:
        self.assertEqual(self.when(self.project, A), (0.0, 400.0))
        new, count = take_changed(self.project, quicker(CALM))
        self.assertEqual(count, 2)
        for pair in (A, B):
            self.assertEqual(self.when(new, pair), (0.0, 200.0))
        self.assertEqual(take_changed(new, quicker(CALM)), (new, 0))

    def test_what_is_ones_own_stays_and_the_rest_follows(self) -> None:
        mine = space_of_cues(self.project, self.route, [CueKey(*A, "fill")], "lab")
        self.assertEqual([use.own for use in uses(mine)], [("fill",), ()])
        new, _ = take_changed(mine, quicker(CALM))
        cues = {cue.key: cue for cue in route_by_id(new, self.route).transition.cues}
        self.assertEqual(cues[CueKey(*A, "fill")].space, "lab")
        self.assertEqual(self.when(new, A), (0.0, 200.0))
        own = set_cue(self.project, self.route, CueKey(*A, ""), end=123.0)
        new, _ = take_changed(own, quicker(CALM))
        self.assertEqual((self.when(new, A), self.when(new, B)), ((0.0, 123.0), (0.0, 200.0)))

    def test_own_changes_are_taken_back(self) -> None:
        own = set_cue(self.project, self.route, CueKey(*A, ""), end=123.0)
        first = own.links[0].id
        self.assertEqual(uses(own)[0].own, ("times and curve",))
        self.assertEqual(uses(reset(own, first))[0].own, ())
        self.assertEqual(self.when(reset(own, first), A), (0.0, 400.0))

    def test_cut_loose_does_not_follow(self) -> None:
        loose = cut_loose(self.project, [self.project.links[0].id])
        new, count = take_changed(loose, quicker(CALM))
        self.assertEqual(count, 1)
        self.assertEqual((self.when(new, A), self.when(new, B)), ((0.0, 400.0), (0.0, 200.0)))
        empty = cut_loose(loose, [link.id for link in loose.links])
        self.assertEqual((empty.links, empty.presets), ((), ()))

    def test_another_length_of_the_route_is_no_change_of_ones_own(self) -> None:
        longer = set_duration(self.project, self.route, 733.0)
        self.assertEqual([use.own for use in uses(longer)], [(), ()])

    def test_a_measure_is_kept(self) -> None:
        where = Where((self.route,), (A, B))
        project = put_linked(self.project, CALM, where, How(stretch=0.5, step=30.0)).project
        self.assertEqual(len(project.links), 2)  # those that were there gave way
        self.assertEqual([self.when(project, pair) for pair in (A, B)], [(0.0, 200.0), (30.0, 230.0)])
        self.assertEqual([use.own for use in uses(project)], [(), ()])
        new, _ = take_changed(project, quicker(CALM))
        self.assertEqual([self.when(new, pair) for pair in (A, B)], [(0.0, 100.0), (30.0, 130.0)])

    def test_loops(self) -> None:
        anchor = by_name("At anchor")
        project = put_linked(scene(), anchor, Where(frame="C", layers=("e", "g")), How(step=100.0)).project
        first, second = (loop.id for loop in frame_by_id(project, "C").loops)
        project = edit_loop(project, "C", first, lambda old: replace(old, duration=999.0, name="Own name"))
        self.assertEqual([use.own for use in uses(project)], [("duration",), ()])
        assert anchor.loop is not None
        new_loop = replace(anchor.loop.loop, duration=4000.0, curve=Handles(0, 0, 1, 1))
        new, count = take_changed(project, replace(anchor, loop=replace(anchor.loop, loop=new_loop)))
        one, two = frame_by_id(new, "C").loops
        self.assertEqual((count, one.duration, two.duration, one.name), (2, 999.0, 4000.0, "Own name"))
        self.assertEqual((one.id, two.id, one.curve), (first, second, Handles(0, 0, 1, 1)))
        gone = remove_loop(new, "C", first)
        self.assertEqual([use.link.loop for use in uses(gone)], [second])

    def test_transitions_and_staggers(self) -> None:
        berth, rows = by_name("Next berth"), by_name("Row by row")
        project = put_linked(scene(), berth, Where(("R", self.route))).project
        self.assertEqual(len(project.links), 2)
        assert berth.recorded is not None
        longer = replace(berth.recorded, transition=replace(berth.recorded.transition, duration=500.0))
        new, _ = take_changed(project, replace(berth, recorded=longer))
        self.assertEqual({route.transition.duration for route in new.routes}, {500.0})
        project = put_linked(scene(), rows, Where((self.route,), (A, B))).project
        self.assertEqual([use.own for use in uses(project)], [()])
        assert rows.stagger is not None
        new, _ = take_changed(project, replace(rows, stagger=replace(rows.stagger, ms=90.0)))
        (rule,) = route_by_id(new, self.route).transition.staggers
        self.assertEqual(rule.ms, 90.0)

    def test_what_it_was_on_may_be_gone(self) -> None:
        gone = remove_route(self.project, self.route)
        self.assertEqual(uses(gone), [])
        self.assertEqual(take_changed(gone, quicker(CALM))[1], 0)

    def test_the_shelf_as_a_whole(self) -> None:
        self.assertEqual(refreshed(self.project, built_in()), (self.project, ()))
        new, names = refreshed(self.project, [by_name("Beacon"), quicker(CALM)])
        self.assertEqual(names, (CALM.name,))
        self.assertEqual(self.when(new, A), (0.0, 200.0))

    def test_parts_need_no_link(self) -> None:
        with self.assertRaises(EditError):
            put_linked(self.project, replace(CALM, kind="part"), Where(frame="C"))

    def test_what_cannot_be_read_is_left_alone(self) -> None:
        broken = replace(self.project, presets=(replace(self.project.presets[0], document="{"),))
        self.assertEqual((uses(broken), take_changed(broken, quicker(CALM))), ([], (broken, 0)))


class InsideParts(unittest.TestCase):
    """Linked inside a part and outside at once: one preset, whatever is open."""

    def setUp(self) -> None:
        self.anchor = by_name("At anchor")
        project = put_linked(scene(), self.anchor, Where(frame="C", layers=("e",))).project
        project, self.part, _ = make_part(project, "A", ["t"], "Buoy")
        pose = part_by_id(project, self.part).poses[0]
        self.inside = Where(frame=pose.id, layers=(pose.layers[0].id,))
        self.outer = project
        self.project = self.put(self.anchor)

    def put(self, preset: Preset) -> Project:
        return in_stage(self.outer, self.part, lambda stage: put_linked(stage, preset, self.inside).project)

    def slower(self, ms: float = 4000.0) -> Preset:
        assert self.anchor.loop is not None
        return replace(self.anchor, loop=replace(self.anchor.loop, loop=replace(self.anchor.loop.loop, duration=ms)))

    def durations(self, project: Project) -> list[float]:
        frames = (frame_by_id(project, "C"), part_by_id(project, self.part).poses[0])
        return [loop.duration for frame in frames for loop in frame.loops]

    def test_the_project_keeps_its_own(self) -> None:
        self.assertEqual(self.project.links, self.outer.links)
        self.assertEqual(len(part_by_id(self.project, self.part).links), 1)
        other_one = put_linked(self.outer, by_name("Beacon"), Where(frame="D", layers=("f",))).project
        self.outer = other_one
        both = self.put(self.anchor)
        self.assertEqual(sorted(entry.name for entry in both.presets), ["At anchor", "Beacon"])
        self.assertEqual(both.links, other_one.links)
        self.assertEqual([use.where.split(": ")[0] for use in uses(both)][2], "Buoy")

    def test_it_is_written_and_read(self) -> None:
        self.assertEqual(project_from(project_to(self.project), "x"), self.project)

    def test_all_uses_change_inside_and_outside(self) -> None:
        new, count = take_changed(self.project, self.slower())
        self.assertEqual((count, self.durations(new)), (2, [4000.0, 4000.0]))
        self.assertEqual([use.own for use in uses(new)], [(), ()])

    def test_own_changes_inside_stay_and_are_taken_back(self) -> None:
        pose = part_by_id(self.project, self.part).poses[0]

        def own(stage: Project) -> Project:
            return edit_loop(stage, pose.id, pose.loops[0].id, lambda old: replace(old, duration=77.0))

        mine = in_stage(self.project, self.part, own)
        self.assertEqual([use.own for use in uses(mine)], [(), ("duration",)])
        new, _ = take_changed(mine, self.slower())
        self.assertEqual(self.durations(new), [4000.0, 77.0])
        back = reset(new, uses(new)[1].link.id)
        self.assertEqual(self.durations(back), [4000.0, 4000.0])

    def test_cut_loose_inside(self) -> None:
        outside, inside = uses(self.project)
        loose = cut_loose(self.project, [inside.link.id])
        self.assertEqual(
            ([use.where for use in uses(loose)], part_by_id(loose, self.part).links), ([outside.where], ())
        )
        new, count = take_changed(loose, self.slower())
        self.assertEqual((count, self.durations(new)), (1, [4000.0, self.durations(self.project)[1]]))
        self.assertEqual(cut_loose(loose, [outside.link.id]).presets, ())

    def test_the_preset_stays_while_only_a_part_links_to_it(self) -> None:
        alone = cut_loose(self.project, [self.project.links[0].id])
        self.assertEqual([entry.name for entry in alone.presets], ["At anchor"])
        loose = put_linked(alone, by_name("Beacon"), Where(frame="D", layers=("f",))).project
        self.assertEqual(sorted(entry.name for entry in loose.presets), ["At anchor", "Beacon"])

    def test_a_part_as_a_preset_goes_without_links(self) -> None:
        preset = capture_part(self.project, self.part, "Buoy")
        assert preset.part is not None
        self.assertEqual(preset.part.parts[-1].links, ())
        again = put_preset(self.project, preset, Where(frame="D")).project
        self.assertEqual(len(again.parts), len(self.project.parts))  # it is there already, links or not
        hostile = replace(preset, part=replace(preset.part, parts=(part_by_id(self.project, self.part),)))
        fresh = put_preset(scene(), hostile, Where(frame="D")).project
        self.assertEqual([part.links for part in fresh.parts], [()])

    def test_two_links_of_one_id_are_refused(self) -> None:
        part = part_by_id(self.project, self.part)
        twice = replace(self.project, parts=(replace(part, links=self.project.links),))
        with self.assertRaises(FormatError):
            check(twice)


class WhereUsed(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.memory = self.folder / "state" / "used.json"
        self.file = self.folder / "one.avelt"
        self.file.touch()
        self.project = put_linked(scene(), CALM, Where((other(scene()),), (A, B))).project

    def test_by_preset_and_file(self) -> None:
        remember(self.file, self.project, self.memory)
        self.assertEqual(used(self.memory), {CALM.name: {str(self.file): 2}})
        two = self.folder / "two.avelt"
        remember(two, self.project, self.memory)
        self.assertEqual(used(self.memory), {CALM.name: {str(self.file): 2}})  # there is no such file
        two.touch()
        self.assertEqual(sorted(used(self.memory)[CALM.name]), [str(self.file), str(two)])
        remember(self.file, scene(), self.memory)
        self.assertEqual(used(self.memory), {CALM.name: {str(two): 2}})

    def test_what_is_broken_is_begun_anew(self) -> None:
        self.memory.parent.mkdir()
        self.memory.write_text('{"a": 3')
        self.assertEqual(used(self.memory), {})
        remember(self.file, self.project, self.memory)
        self.assertEqual(list(used(self.memory)), [CALM.name])

    def test_a_place_that_cannot_be_written_is_no_trouble(self) -> None:
        (self.folder / "state").touch()
        remember(self.file, self.project, self.memory)
        self.assertEqual(used(self.memory), {})


if __name__ == "__main__":
    unittest.main()
