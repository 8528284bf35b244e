"""How good pairing is: real frames changed as designers change them, and the truth known.

``python -m bench.pairing_quality [--seeds N] [--show KIND]`` prints precision, recall and F1 by kind of change and by
what happened to names, and how honest certainty is; ``--write`` puts the tables into docs/performance.md. Exit code
1 when a target is missed.
"""

from __future__ import annotations

import argparse
import random
import sys
from collections import defaultdict
from dataclasses import dataclass, field
from pathlib import Path

from avelt.core.model.find import layer_index, walk
from avelt.core.model.values import Frame, Layer
from avelt.core.pairing.engine import pair_frames
from avelt.demo.build import SCREENS, build_demo
from bench.changes import CHANGES, built, keep_names, no_names, nodes_of, rename_half
from bench.screens import screen

MARK = "<!-- pairing -->"
ROOT = Path(__file__).resolve().parent.parent
#: What happens to names: how the left and the right frame are named, and the F1 that is asked for.
NAMES = {
    "names stay": (keep_names, keep_names, 0.99),
    "half of the names change": (keep_names, rename_half, 0.975),
    "no names": (no_names, no_names, 0.94),
}
SURE, HONEST = 0.9, 0.98


@dataclass
class Count:
    """Pairs that are right, found and true; and of those given SURE or more, how many are right."""

    right: int = 0
    found: int = 0
    true: int = 0
    sure: int = 0
    sure_right: int = 0
    misses: list[str] = field(default_factory=list)

    def add(self, other: Count) -> None:
        """Put another count to this one."""
        self.right += other.right
        self.found += other.found
        self.true += other.true
        self.sure += other.sure
        self.sure_right += other.sure_right

    @property
    def precision(self) -> float:
        """Of the pairs that were found, the share that is right."""
        return self.right / self.found if self.found else 1.0

    @property
    def recall(self) -> float:
        """Of the true pairs, the share that was found."""
        return self.right / self.true if self.true else 1.0

    @property
    def f1(self) -> float:
        """Twice the right ones over found and true together."""
        return 2 * self.right / (self.found + self.true) if self.found + self.true else 1.0

    @property
    def honesty(self) -> float:
        """Of the pairs given SURE or more, the share that is right."""
        return self.sure_right / self.sure if self.sure else 1.0


def sources(seeds: int) -> list[Frame]:
    """The demo's imported screens and made ones."""
    imported = [frame for frame in build_demo().frames if frame.name in SCREENS]
    return [*imported, *(screen(seed) for seed in range(seeds))]


def spare_layers(frames: list[Frame]) -> list[Layer]:
    """Pieces of other screens, to be added."""
    return [layer for frame in frames for layer in walk(frame.layers) if len(list(walk(layer.children))) < 6]


def judge(left: Frame, right: Frame, truth: dict[str, str]) -> Count:
    """Pair two frames and count."""
    pairing = pair_frames(left, right)
    count = Count(true=len(truth), found=len(pairing.pairs))
    names = {**layer_index(left), **layer_index(right)}
    for pair in pairing.pairs:
        good = truth.get(pair.from_id) == pair.to_id
        count.right += good
        if pair.confidence >= SURE:
            count.sure += 1
            count.sure_right += good
        if not good:
            wanted = truth.get(pair.from_id)
            count.misses.append(
                f"{_short(names[pair.from_id])} -> {_short(names[pair.to_id])} {pair.confidence:.2f},"
                f" should be {_short(names[wanted]) if wanted else 'alone'}"
            )
    for here, there in truth.items():
        if pairing.to_of.get(here) is None:
            count.misses.append(f"{_short(names[here])} alone, should be {_short(names[there])}")
    return count


def _short(layer: Layer) -> str:
    words = getattr(layer.body, "words", "")
    return f"{layer.kind} {layer.name!r}{' ' + repr(words) if words else ''}"


def measure(seeds: int, show: str = "") -> dict[str, dict[str, Count]]:
    """Counts by what happened to names and by kind of change."""
    frames = sources(seeds)
    spare = spare_layers(frames)
    found: dict[str, dict[str, Count]] = {}
    for regime, (name_left, name_right, _) in NAMES.items():
        found[regime] = defaultdict(Count)
        for place, frame in enumerate(frames):
            for kind, change in CHANGES.items():
                rng = random.Random(f"{place} {kind} {regime}")
                others = [layer for layer in rng.sample(spare, 12) if layer.id not in layer_index(frame)]
                nodes = nodes_of(frame.layers)
                changed, truth = built(change(frame, nodes, rng, others), nodes, rng)
                left, right = name_left(frame, rng), name_right(changed, rng)
                # An origin would give it away.
                right = Frame("N", "N", right.w, right.h, right.background, layers=right.layers)
                count = judge(left, right, truth)
                found[regime][kind].add(count)
                if show in (kind, "all") and count.misses:
                    print(f"{regime}, {kind}, {frame.name}:", *count.misses[:8], sep="\n    ")
    return found


def tables(found: dict[str, dict[str, Count]]) -> tuple[list[str], bool]:
    """The tables in Markdown, and whether all targets are met."""
    lines, good = [], True
    everything = Count()
    for regime, kinds in found.items():
        whole = Count()
        for count in kinds.values():
            whole.add(count)
        everything.add(whole)
        target = NAMES[regime][2]
        good &= whole.f1 >= target
        lines += [
            f"**{regime}** (F1 at least {target})",
            "",
            "| change | precision | recall | F1 | right of those given 0.9 |",
        ]
        lines.append("| --- | --- | --- | --- | --- |")
        for kind, count in [*kinds.items(), ("all together", whole)]:
            lines.append(
                f"| {kind} | {count.precision:.4f} | {count.recall:.4f} | {count.f1:.4f} | {count.honesty:.4f} |"
            )
        lines.append("")
    good &= everything.honesty >= HONEST
    share = everything.sure / max(1, everything.found)
    lines.append(
        f"Of all pairs {share:.1%} were given {SURE} or more;"
        f" {everything.honesty:.2%} of those are right (at least {HONEST:.0%})."
    )
    return lines, good


def main() -> int:
    """Measure and print; 1 when a target is missed."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=48, help="how many made screens")
    parser.add_argument("--show", default="", help="print what went wrong for one kind of change, or all")
    parser.add_argument("--write", action="store_true")
    args = parser.parse_args()
    lines, good = tables(measure(args.seeds, args.show))
    print("\n".join(lines))
    if args.write:
        path = ROOT / "docs" / "performance.md"
        head, mark, rest = path.read_text().partition(MARK)
        _, _, tail = rest.partition(MARK)
        path.write_text(head + mark + "\n" + "\n".join(lines) + "\n" + mark + tail)
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
