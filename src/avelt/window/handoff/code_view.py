"""Which file of each kind of delivery is its code."""

from __future__ import annotations

from avelt.core.handoff.delivery import Delivery

#: The file of each kind that is its code; the others have none.
CODE = {
    "css": "motion.css",
    "svg": "*.svg",
    "waapi": "motion.json",
    "tokens": "*.json",
    "sprite": "sprite.json",
    "lottie": "*.json",
    "html": "page.html",
    "steps": "*.json",
}


def code_of(kind: str, delivery: Delivery) -> tuple[str, str]:
    """The name and the text of the file that is shown; empty where a kind has none."""
    wanted = CODE.get(kind, "")
    if not wanted:
        return "", ""
    ending = wanted.removeprefix("*")
    name = next((n for n in delivery.files if n == wanted or (wanted.startswith("*") and n.endswith(ending))), "")
    return name, delivery.files[name].decode(errors="replace") if name else ""
