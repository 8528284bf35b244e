"""When an element is there at all, as CSS ``visibility``.

An element is seen while it and all its ancestors are. CSS says so by ``inherit``, but Firefox computes ``inherit`` in
keyframes against the parent's value from before the parent's own animation. So an element below one that appears or
vanishes gets the times of both as ``visible`` and ``hidden``, and none of its own where its ancestors say all.
"""

from __future__ import annotations

from collections.abc import Iterable

from avelt.core.handoff.nodes import Key, Moved, Node, Run
from avelt.core.record import Record

PROP = "visibility"
_HAIR = 1e-6  # of a run: how long before a switch the last state is said


class Presence(Record, frozen=True):
    """Whether something is there at first, and the moments (ms, rising) at which that turns over."""

    at_first: bool
    switches: tuple[float, ...]

    def at(self, ms: float) -> bool:
        """Whether it is there at a moment; a switch counts from its own moment on."""
        return self.at_first ^ (sum(moment <= ms for moment in self.switches) % 2 == 1)


def both(a: Presence, b: Presence) -> Presence:
    """There while both are there."""
    state = first = a.at_first and b.at_first
    switches = []
    for ms in sorted({*a.switches, *b.switches}):
        if (now := a.at(ms) and b.at(ms)) != state:
            switches.append(ms)
            state = now
    return Presence(first, tuple(switches))


def run_of(presence: Presence, delay: float, duration: float, there: str = "inherit") -> Run:
    """A run of keyframes from a delay on (ms) that says when something is there; switches outside are moved in."""
    duration = max(duration, 1e-9)
    state = presence.at_first
    words = {True: there, False: "hidden"}
    keys = [Key(0.0, words[state])]
    for ms in presence.switches:
        share = min(1.0, max(0.0, (ms - delay) / duration))
        keys += [Key(max(0.0, share - _HAIR), words[state]), Key(share, words[not state])]
        state = not state
    return Run(delay, duration, (*keys, Key(1.0, words[state])))


def presence_of(run: Run) -> Presence:
    """The other way round."""
    state = first = run.keys[0].text != "hidden"
    switches = []
    for key in run.keys[1:]:
        if (now := key.text != "hidden") != state:
            switches.append(run.delay + key.at * run.duration)
            state = now
    return Presence(first, tuple(switches))


def settle(nodes: Iterable[Node], above: Presence | None = None) -> None:
    """Make the presence of each element in a tree whole by itself. ``above``: that of its parent, if it changes."""
    for node in nodes:
        inner = above
        moved = next((entry for entry in node.moved if entry.prop == PROP), None)
        if moved is not None:
            run = moved.runs[0]
            inner = presence_of(run)
            if above is not None:
                inner = both(inner, above)
                place = node.moved.index(moved)
                if inner == above:
                    del node.moved[place], node.style[PROP]
                else:
                    start = min(run.delay, *above.switches) if above.switches else run.delay
                    end = max(run.delay + run.duration, *above.switches) if above.switches else run.delay + run.duration
                    made = run_of(inner, start, end - start, "visible")
                    node.moved[place] = Moved(PROP, (made,))
                    node.style[PROP] = made.keys[0].text
        settle(node.children, inner)
