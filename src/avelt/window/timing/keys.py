"""What Timing does by keys, beside walking and nudging in the sheet."""

from __future__ import annotations

from avelt.core.words import tr
from avelt.window.common.station_keys import StationKey

#: What a right click on the ruler offers, by its keys.
RULER = ("I", "O", "Shift+I", "", "K", "", "0", "+", "-", "Shift+G")
KEYS = (
    StationKey(tr("Named curves"), "C", lambda s: s.curves.open_drawer()),
    StationKey(tr("Stagger of the chosen cues…"), "G", lambda s: s.ties.stagger()),
    StationKey(tr("The chosen cues one after the other"), "A", lambda s: s.ties.chain("after")),
    StationKey(tr("Copy the chosen keyframe, or the cue's timing"), "Ctrl+C", lambda s: s.ties.copy()),
    StationKey(
        tr("Paste the copied keyframe at the playhead, or the copied timing on the chosen cues"),
        "Ctrl+V",
        lambda s: s.ties.put(),
    ),
    StationKey(tr("Mirror the timing of the chosen cues"), "X", lambda s: s.ties.mirror()),
    StationKey(tr("Mute the chosen cues, or let them move again"), "M", lambda s: s.ties.mute()),
    StationKey(tr("Watch the chosen layer alone, or all"), "W", lambda s: s.ties.watch()),
    StationKey(tr("Keyframe at the playhead"), "K", lambda s: s.keyframes.keyframe_here()),
    StationKey(tr("The next keyframe of the cue"), "N", lambda s: s.keyframes.next_keyframe()),
    StationKey(tr("The keyframe before"), "Shift+N", lambda s: s.keyframes.next_keyframe(-1)),
    StationKey(tr("Delete the chosen keyframes"), "Del", lambda s: s.keyframes.remove_keyframes()),
    StationKey(tr("Straight: delete the motion path"), "Ctrl+Del", lambda s: s.motion_paths.straight()),
    StationKey(tr("Back to the inherited time and curve"), "Shift+Del", lambda s: s.cues.inherit(s.context.key)),
    StationKey(tr("Type the value it leaves with"), "E", lambda s: s.values.edit(0)),
    StationKey(tr("Type the value it arrives with"), "Shift+E", lambda s: s.values.edit(1)),
    StationKey(tr("What is changed in the Now view becomes a keyframe"), "Shift+K", lambda s: s.strip.keep.click()),
    StationKey(tr("Drag layers to where they come from"), "H", lambda s: s.strip.from_here.click()),
    StationKey(tr("Try versions side by side"), "T", lambda s: s.try_out()),
    StationKey(tr("The styles of this transition, or not"), "Shift+C", lambda s: s.strip.code.click()),
    StationKey(tr("The part that plays begins here"), "I", lambda s: s.mark("in")),
    StationKey(tr("The part that plays ends here"), "O", lambda s: s.mark("out")),
    StationKey(tr("Play all of it"), "Shift+I", lambda s: s.mark("")),
    StationKey(tr("Only the Now view, or everything"), "F", lambda s: s.show_full(not s.full)),
    StationKey(tr("Fold the frames at the sides, or unfold them"), "Shift+F", lambda s: s.stage.fold()),
    StationKey(tr("Fit the time to the sheet"), "0", lambda s: s.fit()),
    StationKey(tr("Zoom into the time"), "+", lambda s: s.sheet.magnify(1.25)),
    StationKey(tr("Zoom out of the time"), "-", lambda s: s.sheet.magnify(0.8)),
    StationKey(tr("Snap to a grid of 10 ms, or not"), "Shift+G", lambda s: s.switch_grid()),
    StationKey(tr("Find rows"), "/", lambda s: s.strip.search.setFocus()),
)
