"""Deliveries made, written and looked at away from the window's thread."""

from __future__ import annotations

import contextlib
import threading
from typing import Any

from avelt.browser.headless import Browser
from avelt.core.arrays import np
from avelt.core.errors import AveltError, FormatError, Stopped
from avelt.core.handoff.delivery import Delivery
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.deliver.films import Shot, on_paper, rgba
from avelt.deliver.kinds import BY_KEY, Asked, delivery_of
from avelt.deliver.shows import cut_of
from avelt.deliver.writing import Order, Written, write_all
from avelt.paint.letters import QtLetters
from avelt.paint.painter import ScenePainter
from avelt.verify.compare import Moment, Verdict, apart_picture, difference, moments_of, on_white
from avelt.verify.judging import decoded
from avelt.verify.playing import Player, playing
from avelt.window.common.jobs import Job

_SCALE = 2.0
MOMENTS = 25


class Made(Record, frozen=True):
    """A delivery of a kind, or why there is none."""

    kind: str
    delivery: Delivery | None
    trouble: str = ""


class MakeJob(Job):
    """Makes one delivery in memory: its size, its code, its report. What cannot be made is an answer too."""

    def __init__(self, kind: str, asked: Asked) -> None:
        super().__init__((kind, asked))
        self.kind, self.asked = kind, asked

    def work(self) -> Made:
        try:
            return Made(self.kind, delivery_of(BY_KEY[self.kind], self.asked, self.go_on))
        except Stopped:
            raise
        except AveltError as error:
            return Made(self.kind, None, str(error))


class WriteJob(Job):
    """Writes all that is ticked."""

    def __init__(self, order: Order) -> None:
        super().__init__(order)
        self.order = order

    def work(self) -> Written:
        try:
            return write_all(self.order, QtLetters(), self.go_on)
        except Stopped:
            raise Stopped(tr("Stopped. Nothing was written.")) from None


class Look(Record, frozen=True):
    """What is looked at: a delivery of a kind at a moment; ``judge``: at many moments too."""

    kind: str
    asked: Asked
    delivery: Delivery
    at: float
    judge: bool = False


class Looked(Record, frozen=True):
    """As designed, as delivered and the difference (h, w, 3) at a moment; and the verdict over many, if asked for."""

    kind: str
    designed: np.ndarray
    delivered: np.ndarray
    apart: np.ndarray
    moment: Moment
    verdict: Verdict | None = None


class Eye:
    """A browser that stays open between looks, and what it shows. Used by one job at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._browser: Browser | None = None
        self._open: Any = None
        self._shows: Delivery | None = None
        self._player: Player | None = None

    def look(self, look: Look, go_on: Any) -> Looked:
        """The pictures of a moment."""
        with self._lock:
            try:
                return self._look(look, go_on)
            except BaseException:
                self._close()
                raise

    def close(self) -> None:
        """Let the browser go."""
        with self._lock:
            self._close()

    def _look(self, look: Look, go_on: Any) -> Looked:
        kind, show = BY_KEY[look.kind], look.asked.subject.show
        if not kind.plays:
            return _of_pictures(look)
        program = look.asked.subject.program
        if program is None:
            raise FormatError(tr("A {what} is not played by a browser.", what=look.asked.subject.what))
        painter = ScenePainter(look.asked.project.assets)
        player = self._playing(look, show.w, show.h)
        verdict = None
        if look.judge:
            found = []
            moments = moments_of(program, MOMENTS)
            for k, ms in enumerate(moments):
                if not go_on(k, len(moments)):
                    raise Stopped()
                designed = on_white(painter.render(program.from_start(ms), _SCALE))
                found.append(difference(designed, player.at(ms), ms))
            verdict = Verdict(tuple(found))
        designed = on_white(painter.render(program.from_start(look.at), _SCALE))
        return _looked(look, designed, player.at(look.at), verdict)

    def _playing(self, look: Look, w: float, h: float) -> Player:
        if self._player is None or self._shows is not look.delivery:
            if self._open is not None:
                self._open.__exit__(None, None, None)
                self._open = None
            if self._browser is None:
                browser = Browser()
                browser.__enter__()
                self._browser = browser
            self._open = playing(look.kind, look.delivery, (w, h), _SCALE, self._browser)
            self._player, self._shows = self._open.__enter__(), look.delivery
        return self._player

    def _close(self) -> None:
        if self._open is not None:
            with contextlib.suppress(AveltError, OSError):
                self._open.__exit__(None, None, None)
        if self._browser is not None:
            self._browser.close()
        self._browser, self._open, self._shows, self._player = None, None, None, None


def _looked(look: Look, designed: np.ndarray, delivered: np.ndarray, verdict: Verdict | None) -> Looked:
    moment = difference(designed, delivered, look.at)
    return Looked(look.kind, designed, delivered, apart_picture(designed, delivered), moment, verdict)


def _of_pictures(look: Look) -> Looked:
    """The picture of a moving picture that is shown at a moment, against the one that is painted."""
    asked = look.asked
    cut = cut_of(asked.subject.show, asked.wanted)
    place = max(0, int(np.searchsorted(np.array(cut.times), look.at + 1e-6, side="right")) - 1)
    shot = Shot(asked.project, asked.subject.show, asked.wanted)
    designed = on_paper(rgba(shot.picture(asked.subject.show, cut.times[place])))
    return _looked(look, designed, on_paper(_picture(look, place)), None)


def _picture(look: Look, place: int) -> np.ndarray:
    for k, picture in enumerate(decoded(look.kind, look.delivery)):
        if k == place:
            return picture
    raise FormatError(tr("There is no such picture."))


class CloseJob(Job):
    """Lets the browser go, once nobody looks any more."""

    def __init__(self, eye: Eye) -> None:
        super().__init__(None)
        self.eye = eye

    def work(self) -> None:
        self.eye.close()


class LookJob(Job):
    """Looks at one moment; the answer is ``Looked``."""

    def __init__(self, look: Look, eye: Eye) -> None:
        super().__init__(look)
        self.look, self.eye = look, eye

    def work(self) -> Looked:
        return self.eye.look(self.look, self.go_on)
