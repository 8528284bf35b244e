"""Motion that somebody else wrote as code, as presets: CSS keyframes with their animations, transitions, easing alone,
and Web Animations. What is not understood is named with its line.

Sources: CSS Animations Level 1 and 2, CSS Transitions Level 1, CSS Easing Level 2, CSS Transforms Level 2, Web
Animations.
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import tinycss2

from avelt.core.curves.text import KEYWORDS
from avelt.core.curves.text import parse as parse_curve
from avelt.core.errors import FormatError
from avelt.core.model.curves import PlainCurve
from avelt.core.model.limits import MAX_PRESET_BYTES
from avelt.core.presets.motion_in import Frames, Motion, preset_of
from avelt.core.presets.shelf import Trouble
from avelt.core.presets.values import Preset, PresetCue, from_json, to_json
from avelt.core.presets.values_in import EASE, PROPERTIES, Values, values_of
from avelt.core.words import tr

_TIME = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+))(ms|s)")
_NUMBER = re.compile(r"(\d+\.?\d*|\.\d+)")
_DIRECTIONS = {"normal", "reverse", "alternate", "alternate-reverse"}
_PLAIN = {"none", "forwards", "backwards", "both", "running", "paused", "allow-discrete"}
_VAR = re.compile(r"var\(\s*(--[\w-]+)\s*(?:,([^()]*))?\)")
_MOST = 500  # motions of one text
_LONGHANDS = ("name", "duration", "timing-function", "delay", "iteration-count", "direction")


def from_code(text: str, place: str) -> tuple[tuple[Preset, ...], tuple[Trouble, ...]]:
    """The presets of a text, and what in it was not understood. ``FormatError`` when nothing in it moves."""
    if len(text.encode("utf-8", "replace")) > MAX_PRESET_BYTES:
        raise FormatError(tr("The text is too large."), place)
    stripped = text.strip()
    if not stripped:
        raise FormatError(tr("There is no code."), place)
    try:
        curve = parse_curve(stripped.rstrip(";"))
    except FormatError:
        pass
    else:
        return (_checked(Preset(stripped.rstrip(";")[:60], "curve", 0.0, curve=curve)),), ()
    reader = _Reader(place)
    if stripped[0] in "[{":
        try:
            document = json.loads(stripped)
        except (ValueError, RecursionError):
            if stripped[0] == "[":
                raise FormatError(tr("This is no JSON."), place) from None
            document = None
        if document is not None:
            reader.animations(document)
            return reader.done()
    reader.sheet(text)
    return reader.done()


def _checked(preset: Preset) -> Preset:
    return from_json(to_json(preset), preset.name)


class _Reader:
    def __init__(self, place: str) -> None:
        self._place = place
        self.motions: list[Motion] = []
        self.presets: list[Preset] = []
        self.troubles: list[Trouble] = []
        self._frames: dict[str, Frames] = {}
        self._vars: dict[str, str] = {}

    def done(self) -> tuple[tuple[Preset, ...], tuple[Trouble, ...]]:
        """What was found."""
        for motion in self.motions[:_MOST]:
            try:
                preset, lost = preset_of(motion)
                self.presets.append(_checked(preset))
                for sentence in lost:
                    self.trouble(motion.line, sentence)
            except FormatError as error:
                self.trouble(motion.line, f"{motion.name}: {error.sentence}")
        if not self.presets:
            said = f" {self.troubles[0].says}" if self.troubles else ""
            raise FormatError(tr("Nothing in this moves.{said}", said=said), self._place)
        return tuple(self.presets), tuple(self.troubles)

    def trouble(self, line: int, sentence: str) -> None:
        """Something was not understood."""
        where = f"line {line}" if line else ""
        entry = Trouble(where, f"{where}: {sentence}" if where else sentence)
        if entry not in self.troubles and len(self.troubles) < _MOST:
            self.troubles.append(entry)

    # CSS

    def sheet(self, text: str) -> None:
        """A style sheet; bare declarations are taken as those of one rule."""
        rules = tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True)
        if not any(rule.type in ("qualified-rule", "at-rule") for rule in rules):
            rules = []
            self._rule("motion", tinycss2.parse_blocks_contents(text, skip_comments=True, skip_whitespace=True))
        waiting = list(self._flat(rules))
        for rule in waiting:
            for entry in self._declared(rule.content):
                if entry.name.startswith("--"):
                    self._vars[entry.name] = tinycss2.serialize(entry.value).strip()
            if rule.type == "at-rule":
                self._keyframes(rule)
        for rule in waiting:
            if rule.type == "qualified-rule":
                name = tinycss2.serialize(rule.prelude).strip() or "motion"
                self._rule(name, tinycss2.parse_blocks_contents(rule.content, skip_comments=True, skip_whitespace=True))

    def _flat(self, rules: list[Any], depth: int = 0) -> Iterator[Any]:
        for rule in rules:
            if rule.type == "error":
                self.trouble(rule.source_line, rule.message)
            elif rule.type == "at-rule" and rule.at_keyword.lower().endswith("keyframes") and rule.content is not None:
                yield rule
            elif rule.type == "at-rule" and rule.content is not None:
                words = tinycss2.serialize(rule.prelude)
                if "reduce" not in words and depth < 8:
                    inner = tinycss2.parse_stylesheet(rule.content, skip_comments=True, skip_whitespace=True)
                    yield from self._flat(inner, depth + 1)
            elif rule.type == "qualified-rule":
                yield rule

    def _declared(self, content: list[Any]) -> list[Any]:
        found = tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True)
        return [entry for entry in found if entry.type == "declaration"]

    def _text(self, tokens: list[Any]) -> str:
        """A value as text, with custom properties put in."""
        text = str(tinycss2.serialize(tokens)).strip()
        for _ in range(8):
            made = _VAR.sub(lambda m: self._vars.get(m.group(1), (m.group(2) or "").strip()), text)
            if made == text:
                break
            text = made[:10_000]
        return text

    def _keyframes(self, rule: Any) -> None:
        name = tinycss2.serialize(rule.prelude).strip().strip("\"'")
        frames: Frames = []
        inner = tinycss2.parse_rule_list(rule.content, skip_comments=True, skip_whitespace=True)
        for block in inner:
            if block.type != "qualified-rule":
                continue
            values, curve = Values(), None
            for entry in self._declared(block.content):
                text = self._text(entry.value)
                if entry.lower_name == "animation-timing-function":
                    curve = self._curve(text, entry.source_line)
                else:
                    self._value(values, entry.lower_name, text, entry.source_line)
            for share in tinycss2.serialize(block.prelude).split(","):
                word = {"from": "0%", "to": "100%"}.get(share.strip().lower(), share.strip())
                try:
                    at = float(word.removesuffix("%")) / 100.0
                except ValueError:
                    self.trouble(block.source_line, tr("{word!r} is no place of a keyframe.", word=word))
                    continue
                if word.endswith("%") and 0.0 <= at <= 1.0:
                    frames.append((at, values, curve))
        self._frames[name] = sorted(frames, key=lambda frame: frame[0])

    def _value(self, values: Values, name: str, text: str, line: int) -> None:
        try:
            if not values_of(values, name, text):
                self.trouble(line, tr("{name} is not read.", name=name))
        except FormatError as error:
            self.trouble(line, f"{name}: {error.sentence}")

    def _curve(self, text: str, line: int) -> PlainCurve | None:
        try:
            return parse_curve(text)
        except FormatError as error:
            self.trouble(line, error.sentence)
            return None

    def _rule(self, selector: str, entries: list[Any]) -> None:
        known = {e.lower_name.removeprefix("-webkit-"): e for e in entries if e.type == "declaration"}
        for entry in entries:
            if entry.type == "error":
                self.trouble(entry.source_line, entry.message)
        if "animation" in known:
            entry = known["animation"]
            for text in split(self._text(entry.value)):
                self._animation(selector, text, entry.source_line)
        elif "animation-name" in known:
            line = known["animation-name"].source_line
            said = {part: known.get(f"animation-{part}") for part in _LONGHANDS}
            lists = {part: split(self._text(entry.value)) for part, entry in said.items() if entry is not None}
            for k in range(len(lists["name"])):
                self._animation(selector, " ".join(v[k % len(v)] for v in lists.values()), line)
        if "transition" in known:
            entry = known["transition"]
            self._transition(selector, split(self._text(entry.value)), entry.source_line)

    def _animation(self, selector: str, text: str, line: int) -> None:
        times: list[float] = []
        curve: PlainCurve = EASE
        rounds, direction, name = 1.0, "normal", ""
        for word in words(text):
            low = word.lower()
            if (time := _time(low)) is not None:
                times.append(time)
            elif low == "infinite":
                rounds = math.inf
            elif _NUMBER.fullmatch(low):
                rounds = float(low)
            elif low in _DIRECTIONS:
                direction = low
            elif low in self._frames or word in self._frames:
                name = word
            elif low in _PLAIN:
                continue
            elif "(" in low or low in (
                "ease",
                "linear",
                "ease-in",
                "ease-out",
                "ease-in-out",
                "step-start",
                "step-end",
            ):
                curve = self._curve(word, line) or EASE
            elif not name:
                name = word
        if name not in self._frames:
            if name:
                self.trouble(line, tr("There are no keyframes {name!r}.", name=name))
            return
        frames: Frames = [(at, values, own or curve) for at, values, own in self._frames[name]]
        duration, delay = (*times, 0.0, 0.0)[:2]
        self.motions.append(Motion(name, line, duration, delay, rounds, direction, frames))

    def _transition(self, selector: str, parts: list[str], line: int) -> None:
        cues: list[tuple[str, float, float, PlainCurve]] = []
        for text in parts:
            times: list[float] = []
            curve: PlainCurve = EASE
            prop = "all"
            for word in words(text):
                low = word.lower()
                if (time := _time(low)) is not None:
                    times.append(time)
                elif "(" in low or low in KEYWORDS:
                    curve = self._curve(word, line) or EASE
                elif low not in _PLAIN:
                    prop = low
            duration, delay = (*times, 0.0, 0.0)[:2]
            if prop != "all" and prop not in PROPERTIES:
                self.trouble(line, tr("{prop} is not read.", prop=prop))
            elif duration > 0.0 or delay > 0.0:
                cues.append((PROPERTIES.get(prop, ""), max(0.0, delay), max(0.0, delay) + duration, curve))
        whole = max((end for _, _, end, _ in cues), default=0.0)
        if not whole:
            return
        made = {c[0]: PresetCue(c[0], c[1] / whole, c[2] / whole, c[1], c[2], c[3]) for c in cues}
        name = selector.split(",")[0].strip().lstrip(".#")[:60] or "transition"
        self.presets.append(_checked(Preset(name, "layer motion", whole, tuple(made.values()))))

    # Web Animations

    def animations(self, document: Any) -> None:
        """What ``element.animate()`` takes, alone, in lists, or as Avelt delivers it."""
        if isinstance(document, dict) and isinstance(document.get("layers"), list):
            for layer in document["layers"]:
                if isinstance(layer, dict) and isinstance(layer.get("animations"), list):
                    name = str(layer.get("name") or layer.get("selector") or "motion")
                    for entry in layer["animations"]:
                        self._animate(entry, name)
            return
        entries = document if isinstance(document, list) else [document]
        if entries and all(isinstance(e, dict) and "keyframes" not in e for e in entries):
            entries = [{"keyframes": document, "options": {"duration": 1000}}]
        for entry in entries:
            self._animate(entry, "motion")

    def _animate(self, entry: Any, name: str) -> None:
        if not isinstance(entry, dict):
            self.trouble(0, tr("An animation has keyframes and options."))
            return
        options = entry.get("options", entry.get("timing", {}))
        options = {"duration": options} if isinstance(options, int | float) else options
        frames = self._list_of(entry.get("keyframes"))
        if not isinstance(options, dict) or not frames:
            self.trouble(0, tr("{name}: an animation has keyframes and options.", name=name))
            return
        main = self._curve(str(options.get("easing", "linear")), 0)
        offsets = _offsets([frame.get("offset") for frame in frames])
        made: Frames = []
        for at, frame in zip(offsets, frames, strict=True):
            values = Values()
            for key, value in frame.items():
                if key not in ("offset", "easing", "composite", "computedOffset"):
                    self._value(values, re.sub(r"([A-Z])", lambda m: "-" + m.group(1).lower(), key), str(value), 0)
            made.append((at, values, self._curve(str(frame.get("easing", "linear")), 0) or main))
        try:
            duration, delay = (_finite(options.get(key, 0.0)) for key in ("duration", "delay"))
            rounds = float(options.get("iterations", 1))
        except (TypeError, ValueError):
            self.trouble(0, tr("{name}: its times are no numbers.", name=name))
            return
        direction = str(options.get("direction", "normal"))
        self.motions.append(Motion(name, 0, duration, delay, rounds, direction, made))

    def _list_of(self, keyframes: Any) -> list[dict[str, Any]]:
        """Keyframes as a list; the other form has a list of values for each property."""
        if isinstance(keyframes, list):
            return [frame for frame in keyframes if isinstance(frame, dict)]
        if not isinstance(keyframes, dict):
            return []
        lists = {k: v if isinstance(v, list) else [v] for k, v in keyframes.items()}
        count = max((len(v) for v in lists.values()), default=0)
        return [{k: v[n] for k, v in lists.items() if n < len(v)} for n in range(min(count, _MOST))]


def _finite(value: Any) -> float:
    number = float(value)
    if not math.isfinite(number):
        raise ValueError("not finite")
    return number


def _offsets(said: list[Any]) -> list[float]:
    """Offsets with the missing ones between, evenly (Web Animations, computing missing keyframe offsets)."""
    made = [float(v) if isinstance(v, int | float) and 0 <= v <= 1 else None for v in said]
    if made:
        made[0] = 0.0 if made[0] is None else made[0]
        made[-1] = 1.0 if made[-1] is None else made[-1]
    known = [k for k, v in enumerate(made) if v is not None]
    for low, high in pairwise(known):
        for k in range(low + 1, high):
            a, b = made[low] or 0.0, made[high] or 0.0
            made[k] = a + (b - a) * (k - low) / (high - low)
    return [v or 0.0 for v in made]


def _time(text: str) -> float | None:
    found = _TIME.fullmatch(text)
    return float(found.group(1)) * (1000.0 if found.group(2) == "s" else 1.0) if found else None


def split(text: str) -> list[str]:
    """Parts parted by commas outside of brackets."""
    return _parted(text, ",")


def words(text: str) -> list[str]:
    """Words parted by spaces outside of brackets."""
    return _parted(text, " \t\n")


def _parted(text: str, by: str) -> list[str]:
    made, depth, part = [], 0, ""
    for letter in text:
        depth += (letter == "(") - (letter == ")")
        if letter in by and depth == 0:
            made.append(part.strip())
            part = ""
        else:
            part += letter
    return [entry for entry in (*made, part.strip()) if entry]
