"""The bar over Timing: between which frames, by what, how long, by which curves."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from avelt.core.curves.named import title
from avelt.core.model import wording
from avelt.core.model.find import frame_by_id, frame_of_entrance, phase_of_motion
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Project, Route
from avelt.core.timing.schedule import duration_of, end_of
from avelt.core.words import tr
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.fields import NumberField, add_all, bar, button, label
from avelt.window.controls.painted import Pick

WHENS = ("on arrival", "after loading")


class TimingBar:
    """Only widgets (``frame`` holds them); the station connects them."""

    def __init__(self) -> None:
        self.frame, layout = bar()
        self.leaves_name, self.arrives_name = label("", "leaves"), label("", "arrives")
        self.arrow = label("→", "quiet")
        self.trigger = label("", "quiet")
        self.other = button(tr("Other route…"), tr("Choose another transition, or an entrance"))
        self.when = Pick()
        for words in WHENS:
            self.when.addItem(tr(words), words)
        self.when.setToolTip(tr("Whether the entrance starts on arrival or once loading is done"))
        self.back = button(tr("Back to the transition"), tr("From the entrance to how the frame is arrived at"))
        self.length = NumberField("ms", 10.0, 0.0, 3_600_000.0, 0)
        self.length.setToolTip(tr("How long the transition lasts; all cues are stretched with it"))
        self.base = Pick()
        self.roles = button("", tr("Other curves for what enters and what leaves"))
        self.save = button(tr("Save as preset"), tr("Keep the motion of the chosen layer on the shelf (Ctrl+Shift+P)"))
        add_all(layout, self.leaves_name, self.arrow, self.arrives_name, self.trigger, self.when, self.other, self.back)
        lasts, base = label(tr("Duration"), "quiet"), label(tr("Base curve"), "quiet")
        add_all(layout, None, lasts, self.length, base, self.base, self.roles, self.save)
        self._motion: tuple[QWidget, ...] = (lasts, base, self.length, self.base, self.roles)

    def show_route(self, project: Project, route: Route, several: bool = False) -> None:
        """What the bar says of a route, or of an entrance; of ``several`` versions it does not say how one moves."""
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        entrance, phase = bool(frame_of_entrance(route.id)), bool(phase_of_motion(route.id))
        for widget in (self.leaves_name, self.arrow):
            widget.setVisible(not entrance)
        for shown in (self.when, self.back):
            shown.setVisible(entrance)
        self.leaves_name.setText(left.name)
        self.arrives_name.setText(tr("{right} (entrance)", right=right.name) if entrance else right.name)
        self.trigger.setVisible(not entrance and not phase)
        self.trigger.setText(trigger_words(project, route))
        if right.entrance is not None:
            self.when.setCurrentIndex(WHENS.index(right.entrance.when))
        motion = route.transition
        length, plays = duration_of(motion, project), end_of(motion, project)
        self.length.more = tr(", plays {plays:.0f}", plays=plays) if plays > length + 0.5 else ""
        self.length.setFixedWidth(150 if self.length.more else 84)
        self.length.show_value(length)
        show_named(self.base, project, motion.curve)
        self.base.setToolTip(tr("The curve of every cue that has none of its own"))
        others = [
            f"{words} {title(project, curve)}"
            for words, curve in ((tr("enters:"), motion.enter_curve), (tr("leaves:"), motion.leave_curve))
            if curve is not None
        ]
        self.roles.setText(tr("By role…") if not others else tr("By role ({count})…", count=len(others)))
        self.roles.setToolTip("; ".join(others) or tr("Other curves for what enters and what leaves"))
        for part in self._motion:
            part.setVisible(not several)
        self.save.setVisible(not several and not entrance)


def trigger_words(project: Project, route: Route) -> str:
    """What starts a route, in words."""
    word, about = wording.trigger_words(project, route)
    if isinstance(route.trigger, Timer):
        return tr("by itself {about}", about=about)
    does = wording.short_action(route.action)
    return tr("on {word}: {about}", word=tr(word), about=about) + (f", {does}" if does else "")
