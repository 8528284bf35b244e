"""What runs in a rehearsal, as lines."""

from __future__ import annotations

from avelt.core.model.find import frame_of_entrance
from avelt.core.model.phases import MAIN
from avelt.core.model.triggers import Timer, trigger_row
from avelt.core.running.player import Player
from avelt.core.running.world import Actor, UnderWay, World
from avelt.core.timing.followers import clock_of
from avelt.core.timing.loops import stage_words
from avelt.window.rehearse.now_runs import Line

_THERE = 2e-3  # of the way


def lines_of(player: Player) -> list[Line]:
    """All that runs at the player's moment, motions first."""
    found = [*_motion(player), *_waits(player), *_follows(player)]
    for inside, tracks in player.phases().items():
        for track, phase in tracks.items():
            name = inside or player.project.name
            leads = ("phase", inside, track, phase)
            found.append(Line(name if track == MAIN else f"{name}, {track}", phase, 0.0, "phase", leads=leads))
    for entry in player.running():
        name = f"{entry.inside}: {entry.loop.name}" if entry.inside else entry.loop.name
        words = stage_words(entry.loop, player.now - entry.since)
        found.append(Line(name, words, entry.share, "loop", leads=("loop", entry.inside, entry.loop.id)))
    return found


def _motion(player: Player) -> list[Line]:
    """The motions under way, in the project and in its parts."""
    found: list[Line] = []

    def look(world: World, inside: str) -> None:
        motion = world.actor.motion
        if motion is not None:
            found.append(_of_motion(world, motion, inside))
        for child in world.children.values():
            look(child.now(world.now), f"{inside}/{child.name}" if inside else child.name)

    look(player.world, "")
    return found


def _of_motion(world: World, motion: UnderWay, inside: str) -> Line:
    entrance = bool(frame_of_entrance(motion.route.id))
    name = f"{motion.to.name} (entrance)" if entrance else f"to {motion.to.name}"
    leads: tuple[str, ...] = ()
    if motion.route.id:
        leads = ("motion", inside, motion.route.id) if inside else ("route", motion.route.id)
    name = f"{inside}: {name}" if inside else name
    if motion.start > world.now:
        return Line(name, f"waits {(motion.start - world.now) / 1000:.1f} s more", 0.0, "route", leads=leads)
    share = min(1.0, max(0.0, motion.moment(world.now) / max(motion.end - motion.start, 1e-9)))
    following = motion.following
    if following is None or following.settling is not None:
        return Line(name, f"{share * 100:.0f} %", share, "route", leads=leads)
    word = trigger_row(motion.route.trigger).word
    lag = f", lag {following.lag:.0f} ms" if following.lag else ""
    return Line(name, f"{word} {share:.2f}{lag}", share, "follow", following.wanted, leads)


def _waits(player: Player) -> list[Line]:
    found = []
    loads = player.still_loads()
    if loads is not None:
        words = f"{loads / 1000:.1f} s more"
        found.append(Line("loading", words, 1.0 - loads / max(player.loading, 1e-9), "timer"))
    timer = player.next_timer()
    if timer is not None and isinstance(timer[0].trigger, Timer):
        left = timer[1] - player.now
        share = 1.0 - left / max(timer[0].trigger.after, 1e-9)
        found.append(Line("timer", f"waits {left / 1000:.1f} s more", share, "timer", leads=("trigger", timer[0].id)))
    return found


def _follows(player: Player) -> list[Line]:
    """Layers that follow a value: each that is on its way, and how many more are where the value is."""
    found: list[Line] = []
    there = 0

    def look(world: World, inside: str) -> None:
        nonlocal there
        actor: Actor = world.actor
        for follow in actor.shown.follows:
            state = actor.follows.get(clock_of(follow))
            if state is None or follow.muted:
                continue
            share = state.at(world.now)
            if abs(state.wanted - share) <= _THERE and not state.held:
                there += bool(share > _THERE)
                continue
            name = f"{inside}: {follow.name}" if inside else follow.name
            lag = f", lag {follow.lag:.0f} ms" if follow.lag else ""
            leads = ("layer", actor.frame.id, follow.layer) if not inside else ()
            found.append(Line(name, f"{share:.2f}{lag}", share, "follow", state.wanted, leads))
        for child in world.children.values():
            look(child.now(world.now), f"{inside}/{child.name}" if inside else child.name)

    look(player.world, "")
    if there:
        more = "more " if found else ""
        words = f"{there} {more}layer{'s follow' if there != 1 else ' follows'}"
        found.append(Line(words, "where the value is", 1.0, "phase"))
    return found
