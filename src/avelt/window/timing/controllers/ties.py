"""What is done with several cues in Timing: ties, staggers, copied and mirrored timing, muting."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Literal

import msgspec
from PySide6.QtCore import QPoint, QRect, Signal
from PySide6.QtWidgets import QMenu, QWidget

from avelt.core.edits.afterwards import beside
from avelt.core.edits.cues import mirror_cues, mute_cues
from avelt.core.edits.put_timing import put_timing
from avelt.core.edits.ties_and_staggers import (
    chain,
    dissolve,
    line_up,
    make_stagger,
    set_offset,
    set_stagger,
    stagger_of,
    tie,
    untie,
)
from avelt.core.model.find import route_by_id
from avelt.core.model.motion import CueKey, Moment, Stagger, Tie
from avelt.core.model.values import Project
from avelt.core.timing.schedule import plan_of, timed
from avelt.core.words import tr
from avelt.window.common.menus import open_at, open_under
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.controllers.cues import CueController
from avelt.window.timing.controllers.entrances import EntranceController
from avelt.window.timing.controllers.keyframes import KeyframeController
from avelt.window.timing.now_view import NowView
from avelt.window.timing.popovers import StaggerForm, TieForm
from avelt.window.timing.selection import Selection
from avelt.window.timing.sheet_rows import SheetRows
from avelt.window.timing.strip import Strip


class TieController(Controller):
    """Carries out what the sheet, the strip and the menus ask for."""

    straight_wanted = Signal()  # the chosen layer's motion path goes

    def __init__(
        self,
        context: TimingContext,
        window: QWidget,
        rows: SheetRows,
        strip: Strip,
        now: NowView,
        keyframes: KeyframeController,
        cues: CueController,
        entrances: EntranceController,
    ) -> None:
        super().__init__(context, window)
        self.rows, self.strip, self.now = rows, strip, now
        self.keyframes, self.cues, self.entrances = keyframes, cues, entrances
        self.copied: CueKey | None = None
        self.tie_form, self.stagger_form = TieForm(window), StaggerForm(window)
        self._tie: Tie | None = None
        self.picking_point = False
        body = rows
        body.tied.connect(self.tie)
        body.tie_opened.connect(self.open_tie)
        body.stagger_opened.connect(self.open_stagger)
        body.menu_wanted.connect(lambda _, point: open_at(self.menu(), point))
        self.tie_form.changed.connect(self._set_offset)
        self.tie_form.undone.connect(self._untie)
        self.stagger_form.changed.connect(self._set_stagger)
        self.stagger_form.undone.connect(self._dissolve)
        self.stagger_form.lined_up.connect(self._line_up)
        self.stagger_form.point_wanted.connect(self._pick_point)
        strip.stagger.clicked.connect(self.stagger)
        strip.follow.clicked.connect(lambda: open_under(self.follow_menu(), strip.follow))

    # Ties

    def tie(self, cue: CueKey, to: CueKey, at: str, to_at: str) -> None:
        """Hang an end of a cue on an end of another; it stays where it is."""
        ends: tuple[Moment, Moment] = ("start" if at == "start" else "end", "start" if to_at == "start" else "end")
        if self._do(tr("tie {cue}", cue=self.context.name(cue)), lambda p: tie(p, self.route_id, cue, to, *ends)):
            self.context.select(Selection((cue,)))

    def _do(self, text: str, edit: Callable[[Project], Project]) -> bool:
        """Do an edit, and say which ties and staggers it undid beside."""
        before = self.workspace.project
        done = self.workspace.do(text, edit)
        if done and (words := beside(before, self.workspace.project, self.route_id)):
            self.workspace.said.emit(words)
        return done

    def open_tie(self, found: Tie, where: QRect) -> None:
        """Its offset, beside its label."""
        self._tie = found
        self.tie_form.show_tie(found, self.context.name(found.cue), self.context.name(found.to))
        self.tie_form.open_at(self.rows.mapToGlobal(where.bottomLeft()))

    def _set_offset(self, by: float) -> None:
        found = self._tie
        if found is not None:
            self.workspace.do(tr("change offset"), lambda p: set_offset(p, self.route_id, found.cue, found.at, by))

    def _untie(self) -> None:
        found = self._tie
        self.tie_form.hide()
        if found is not None:
            self.workspace.do(tr("untie"), lambda p: untie(p, self.route_id, [found.cue]))

    def chain(self, how: Literal["after", "with", "before"]) -> None:
        """The chosen cues after, with or before each other as listed; one alone: and the one above it."""
        keys = self._in_order()
        if len(keys) == 1:
            rows = [entry.key for entry in self.rows.rows if not entry.prop]
            place = rows.index(keys[0]) if keys[0] in rows else 0
            keys = [rows[place - 1], keys[0]] if place > 0 else keys
        if len(keys) < 2:
            self.workspace.said.emit(tr("Choose at least two cues: hold Ctrl and click their names."))
            return
        self._do(tr("{how} each other", how=how), lambda p: chain(p, self.route_id, keys, how))

    def loosen(self) -> None:
        """The chosen cues are tied to nothing any more."""
        keys = self.context.keys
        self.workspace.do(tr("untie"), lambda p: untie(p, self.route_id, keys))

    def _in_order(self) -> list[CueKey]:
        chosen = set(self.context.keys)
        return [entry.key for entry in self.rows.rows if entry.key in chosen]

    # Staggers

    def stagger(self) -> None:
        """The stagger that the chosen cue is in, or a new one of all chosen; its sheet opens."""
        if self.context.key is None or not self.route_id:
            return
        keys = self._in_order()
        known = stagger_of(self.workspace.project, self.route_id, self.context.key)
        if known is None or (len(keys) > 1 and set(keys) != set(known.cues)):
            if len(keys) < 2:
                self.workspace.said.emit(tr("Choose at least two cues for a stagger: hold Ctrl and click their names."))
                return
            if not self._do("stagger", lambda p: make_stagger(p, self.route_id, keys, Stagger("", ()))[0]):
                return
            known = stagger_of(self.workspace.project, self.route_id, keys[0])
        if known is None:
            return
        self._show_stagger(known)
        self.stagger_form.open_at(_below(self.strip.stagger))

    def open_stagger(self, rule: Stagger, where: QRect) -> None:
        """Its rule, beside its label."""
        self._show_stagger(rule)
        self.stagger_form.open_at(self.rows.mapToGlobal(where.bottomLeft()))

    def _show_stagger(self, rule: Stagger) -> None:
        plan = plan_of(self.workspace.project, route_by_id(self.workspace.project, self.route_id).transition)
        self.stagger_form.show_rule(self.workspace.project, rule, len(plan.moved(rule)))

    def _set_stagger(self, rule: Stagger) -> None:
        if self.workspace.do(tr("change stagger"), lambda p: set_stagger(p, self.route_id, rule)):
            self._show_stagger(rule)

    def _line_up(self) -> None:
        rule = self.stagger_form.rule
        if rule is not None and self.workspace.do(tr("line up stagger"), lambda p: line_up(p, self.route_id, rule.id)):
            self._show_stagger(rule)

    def _dissolve(self) -> None:
        rule = self.stagger_form.rule
        self.stagger_form.hide()
        if rule is not None:
            self.workspace.do(tr("remove stagger"), lambda p: dissolve(p, self.route_id, rule.id))

    def _pick_point(self) -> None:
        self.stagger_form.hide()
        self.picking_point = True
        self.now.lit = tr("click where distances begin")
        self.now.update()

    def take_point(self, x: float, y: float) -> bool:
        """The point that was clicked in the Now view, when one is wanted."""
        rule = self.stagger_form.rule
        if not self.picking_point or rule is None:
            return False
        self.picking_point = False
        self.now.lit = ""
        self._set_stagger(msgspec.structs.replace(rule, point=(round(x, 1), round(y, 1))))
        return True

    # Timing of one for others

    def copy(self) -> None:
        """Remember the chosen key, or the chosen cue's timing."""
        if self.keyframes.copy_keyframe():
            self.copied = None
            return
        self.keyframes.copied = None
        self.copied = self.context.key
        if self.copied is not None:
            self.workspace.said.emit(
                tr(
                    "Timing of {copied} copied: choose other cues and put it on them.",
                    copied=self.context.name(self.copied),
                )
            )

    def put(self) -> None:
        """The remembered key at the playhead, or the remembered timing on the chosen cues."""
        if self.keyframes.paste_keyframe():
            return
        source, keys = self.copied, self.context.keys
        if source is None:
            self.workspace.said.emit(tr("Copy the timing of a cue first (Ctrl+C)."))
            return
        self.workspace.do(tr("paste timing"), lambda p: put_timing(p, self.route_id, source, keys))

    def mirror(self) -> None:
        """The chosen cues mirrored in the transition."""
        keys = self.context.keys
        self.workspace.do(tr("mirror timing"), lambda p: mirror_cues(p, self.route_id, keys))

    def mute(self) -> None:
        """The chosen cues do not move, or move again."""
        keys, route = self.context.keys, self.context.route
        if route is None or not keys:
            return
        muted = all(timed(self.workspace.project, route.transition, *key).muted for key in keys)
        self.workspace.do(tr("move again") if muted else tr("mute"), lambda p: mute_cues(p, route.id, keys, not muted))

    def watch(self) -> None:
        """The chosen layer alone, or all again."""
        self.now.watched = not self.now.watched
        key = self.context.key
        self.workspace.said.emit(
            tr("{name} alone; W shows all again.", name=self.context.name(key.of("")))
            if self.now.watched and key
            else tr("All layers are shown.")
        )
        self.context.moment.emit()

    # Menus

    def menu(self) -> QMenu:
        """What can be done with the chosen cues."""
        menu = QMenu(self.window)
        several = len(self.context.keys) > 1
        for words, does in (
            (tr("Copy timing\tCtrl+C"), self.copy),
            (tr("Paste timing\tCtrl+V"), self.put),
            (tr("Mirror timing\tX"), self.mirror),
            ("", None),
            (tr("Mute, or move again\tM"), self.mute),
            (tr("Watch alone, or all\tW"), self.watch),
            ("", None),
            (tr("Delete keyframes\tDel"), self.keyframes.remove_keyframes),
            (tr("Straight: delete the motion path\tCtrl+Del"), self.straight_wanted.emit),
            (tr("Back to inherited time and curve\tShift+Del"), lambda: self.cues.inherit(self.context.key)),
        ):
            if does is None:
                menu.addSeparator()
            else:
                menu.addAction(words).triggered.connect(lambda _=False, does=does: does())
        if several:
            menu.addSeparator()
            menu.addAction(tr("Stagger…\tG")).triggered.connect(self.stagger)
        menu.addMenu(self.follow_menu(menu))
        self.entrances.add_to(menu)
        return menu

    def follow_menu(self, parent: QMenu | None = None) -> QMenu:
        """How cues can be tied to each other."""
        menu = QMenu(tr("Tie"), parent or self.window)
        ways: tuple[tuple[str, Literal["after", "with", "before"]], ...] = (
            (tr("One after the other\tA"), "after"),
            (tr("All with the first"), "with"),
            (tr("Each before the one above"), "before"),
        )
        for words, how in ways:
            menu.addAction(words).triggered.connect(partial(self._chained, how))
        menu.addSeparator()
        menu.addAction(tr("Untie")).triggered.connect(lambda _=False: self.loosen())
        return menu

    def _chained(self, how: Literal["after", "with", "before"], _: bool = False) -> None:
        self.chain(how)


def _below(widget: QWidget) -> QPoint:
    return widget.mapToGlobal(widget.rect().bottomLeft())
