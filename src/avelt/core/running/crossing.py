"""Whether an input crosses a value."""

from __future__ import annotations

from avelt.core.model.triggers import Crosses, InputValue


def crosses(trigger: Crosses, old: InputValue, new: InputValue) -> bool:
    """Whether an input that was ``old`` comes to the trigger's value, or goes past it, by becoming ``new``.

    Words, and yes and no, rise as they become the value and fall as they stop being it.
    """
    mark = trigger.value
    if all(isinstance(v, int | float) and not isinstance(v, bool) for v in (mark, old, new)):
        rises, falls = old < mark <= new, old > mark >= new  # type: ignore[operator]
    else:
        rises, falls = old != new and new == mark, old != new and old == mark
    return rises if trigger.way == "rising" else falls if trigger.way == "falling" else rises or falls
