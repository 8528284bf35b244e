"""What runs in a rehearsal, as lines."""

from __future__ import annotations

from avelt.core.model.find import frame_of_entrance
from avelt.core.model.phases import MAIN
from avelt.core.model.triggers import Timer, trigger_row
from avelt.core.running.player import Player
from avelt.core.running.world import Actor, UnderWay, World
from avelt.core.timing.followers import clock_of
from avelt.core.timing.loops import stage_words
from avelt.core.words import tr
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
    name = tr("{to} (entrance)", to=motion.to.name) if entrance else tr("to {to}", to=motion.to.name)
    leads: tuple[str, ...] = ()
    if motion.route.id:
        leads = ("motion", inside, motion.route.id) if inside else ("route", motion.route.id)
    name = f"{inside}: {name}" if inside else name
    if motion.start > world.now:
        return Line(
            name, tr("waits {start:.1f} s more", start=(motion.start - world.now) / 1000), 0.0, "route", leads=leads
        )
    share = min(1.0, max(0.0, motion.moment(world.now) / max(motion.end - motion.start, 1e-9)))
    following = motion.following
    if following is None or following.settling is not None:
        return Line(name, f"{share * 100:.0f} %", share, "route", leads=leads)
    word = tr(trigger_row(motion.route.trigger).word)
    lag = tr(", lag {lag:.0f} ms", lag=following.lag) if following.lag else ""
    return Line(name, f"{word} {share:.2f}{lag}", share, "follow", following.wanted, leads)


def _waits(player: Player) -> list[Line]:
    found = []
    loads = player.still_loads()
    if loads is not None:
        words = tr("{loads:.1f} s more", loads=loads / 1000)
        found.append(Line(tr("loading"), words, 1.0 - loads / max(player.loading, 1e-9), "timer"))
    timer = player.next_timer()
    if timer is not None and isinstance(timer[0].trigger, Timer):
        left = timer[1] - player.now
        share = 1.0 - left / max(timer[0].trigger.after, 1e-9)
        found.append(
            Line(
                tr("timer"),
                tr("waits {left:.1f} s more", left=left / 1000),
                share,
                "timer",
                leads=("trigger", timer[0].id),
            )
        )
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
            lag = tr(", lag {lag:.0f} ms", lag=follow.lag) if follow.lag else ""
            leads = ("layer", actor.frame.id, follow.layer) if not inside else ()
            found.append(Line(name, f"{share:.2f}{lag}", share, "follow", state.wanted, leads))
        for child in world.children.values():
            look(child.now(world.now), f"{inside}/{child.name}" if inside else child.name)

    look(player.world, "")
    if there:
        if found:
            words = tr("{n} more layers follow", "{n} more layer follows", there)
        else:
            words = tr("{n} layers follow", "{n} layer follows", there)
        found.append(Line(words, tr("where the value is"), 1.0, "phase"))
    return found
