"""All that a desktop is given, by its place below a data folder (``~/.local/share`` or ``/usr/share``).

Standards: Desktop Entry, Shared MIME-info, Icon Theme, Thumbnail Managing (all freedesktop.org), AppStream 1.0.
"""

from __future__ import annotations

from xml.sax.saxutils import escape

from avelt.desktop import completion, icons
from avelt.desktop.kinds import APP_ID, KINDS, WITH_PICTURE
from avelt.desktop.manual import man_page
from avelt.desktop.table import Line

SUMMARY = "Choreograph how one screen turns into the next"


def desktop_files(table: Line, version: str, date: str, program: str = "avelt") -> dict[str, bytes]:
    """Path -> bytes. ``program`` is how the program is called; ``date`` (ISO 8601) that of the version."""
    made = {
        f"applications/{APP_ID}.desktop": desktop_entry(program),
        "mime/packages/avelt.xml": mime_types(),
        f"metainfo/{APP_ID}.metainfo.xml": metainfo(version, date),
        "thumbnailers/avelt.thumbnailer": thumbnailer(program),
        f"icons/hicolor/scalable/apps/{APP_ID}.svg": icons.application_icon(),
        "man/man1/avelt.1": man_page(table, version),
        "bash-completion/completions/avelt": completion.bash(table),
        "zsh/site-functions/_avelt": completion.zsh(table),
        "fish/vendor_completions.d/avelt.fish": completion.fish(table),
    }
    for kind in KINDS:
        name = kind.mime.replace("/", "-")
        made[f"icons/hicolor/scalable/mimetypes/{name}.svg"] = icons.file_icon(kind.ending)
    return made


def desktop_entry(program: str) -> bytes:
    """The menu entry."""
    called = _exec(program)
    lines = [
        "[Desktop Entry]",
        "Type=Application",
        "Version=1.4",
        "Name=Avelt",
        "GenericName=Prototype Choreography",
        f"Comment={SUMMARY}",
        f"Exec={called} %F",
        f"Icon={APP_ID}",
        "Terminal=false",
        "Categories=Graphics;2DGraphics;",
        "Keywords=prototype;motion;transition;easing;screen;animation;",
        f"MimeType={''.join(f'{kind.mime};' for kind in KINDS)}",
        f"StartupWMClass={APP_ID}",
        "StartupNotify=true",
        "Actions=demo;",
        "",
        "[Desktop Action demo]",
        "Name=Open the demo",
        f"Exec={called} --demo",
    ]
    return ("\n".join(lines) + "\n").encode()


def _exec(program: str) -> str:
    """A program's path as Exec wants it: quoted where it must be."""
    if all(letter.isalnum() or letter in "/._-" for letter in program):
        return program
    inner = program.replace("\\", "\\\\").replace('"', '\\"').replace("`", "\\`").replace("$", "\\$").replace("%", "%%")
    return f'"{inner}"'.replace("\\", "\\\\")


def mime_types() -> bytes:
    """The kinds of files."""
    parts = ['<?xml version="1.0" encoding="UTF-8"?>']
    parts.append('<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">')
    for kind in KINDS:
        parts += [
            f'  <mime-type type="{kind.mime}">',
            f"    <comment>{escape(kind.says)}</comment>",
            f'    <sub-class-of type="{kind.within}"/>',
            f'    <icon name="{kind.mime.replace("/", "-")}"/>',
            f'    <glob pattern="*{kind.ending}"/>',
        ]
        if kind.magic:
            inner = ""
            for offset, text in reversed(kind.magic):
                inner = f'<match type="string" value="{escape(text)}" offset="{offset}">{inner}</match>'
            parts.append(f'    <magic priority="70">{inner}</magic>')
        parts.append("  </mime-type>")
    return ("\n".join([*parts, "</mime-info>"]) + "\n").encode()


def metainfo(version: str, date: str) -> bytes:
    """AppStream metadata."""
    provides = "".join(f"<mediatype>{kind.mime}</mediatype>" for kind in KINDS)
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<component type="desktop-application">
  <id>{APP_ID}</id>
  <name>Avelt</name>
  <summary>{SUMMARY}</summary>
  <metadata_license>CC0-1.0</metadata_license>
  <project_license>Apache-2.0</project_license>
  <developer id="org.avelt"><name>The Avelt developers</name></developer>
  <description>
    <p>Layers of two screens are matched, everything between them moves with tuned easing, and delays, staggers and
      loops are sequenced. The whole is rehearsed with real taps, drags and scrolls, kept as presets, and handed over
      as code, films or a page that can be clicked.</p>
    <ul>
      <li>Screens from SVG and pictures; layers are paired by themselves, and it says why</li>
      <li>A cue sheet with curves, ties and staggers, and loops that never drift apart</li>
      <li>Deliveries that are compared with the design picture by picture</li>
    </ul>
  </description>
  <launchable type="desktop-id">{APP_ID}.desktop</launchable>
  <provides><binary>avelt</binary>{provides}</provides>
  <categories><category>Graphics</category><category>2DGraphics</category></categories>
  <content_rating type="oars-1.1"/>
  <releases><release version="{version}" date="{date}"/></releases>
</component>
""".encode()


def thumbnailer(program: str) -> bytes:
    """How file managers ask for pictures."""
    called = _exec(program)
    types = "".join(f"{kind.mime};" for kind in WITH_PICTURE)
    lines = [
        "[Thumbnailer Entry]",
        f"TryExec={program}",
        f"Exec={called} thumbnail %i %o --size %s",
        f"MimeType={types}",
    ]
    return ("\n".join(lines) + "\n").encode()
