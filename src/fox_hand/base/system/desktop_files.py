"""What a desktop is told of this program: menu entry, icons, kinds of files, small pictures, manual
page and completion of words. The build reads this too, where nothing else is installed."""

from __future__ import annotations

from importlib import resources

from fox_hand.base.system.man_page import man_page

SIZES = (16, 24, 32, 48, 64, 128, 256, 512)
SHELLS = {
    "bash": "bash-completion/completions/fox-hand",
    "zsh": "zsh/site-functions/_fox-hand",
    "fish": "fish/vendor_completions.d/fox-hand.fish",
}


def files_for(program: str) -> dict[str, bytes]:
    """Every file below a data folder (``~/.local/share`` or ``/usr/share``), by its place.

    Args:
        program: how the program is called, as the desktop is to call it.
    """
    folder = resources.files("fox_hand.base.desktop")

    def text(name: str) -> bytes:
        said = folder.joinpath(name).read_text("utf-8").replace("@PATH@", program)
        return said.replace("@PROGRAM@", quoted(program)).encode()

    found = {
        "applications/fox-hand.desktop": text("fox-hand.desktop"),
        "mime/packages/fox-hand.xml": text("fox-hand.xml"),
        "metainfo/io.foxhand.FoxHand.metainfo.xml": text("fox-hand.metainfo.xml"),
        "thumbnailers/fox-hand.thumbnailer": text("fox-hand.thumbnailer"),
        "icons/hicolor/scalable/apps/fox-hand.svg": text("fox-hand.svg"),
        "man/man1/fox-hand.1": man_page().encode(),
    }
    for size in SIZES:
        data = folder.joinpath(f"fox-hand-{size}.png").read_bytes()
        found[f"icons/hicolor/{size}x{size}/apps/fox-hand.png"] = data
    for shell, place in SHELLS.items():
        found[place] = folder.joinpath(f"completion.{shell}").read_bytes()
    return found


def quoted(program: str) -> str:
    """A program in a line that starts it, as the Desktop Entry Specification 1.5 writes it
    ("The Exec key"): quotes where a letter has a meaning, and its escapes twice."""
    text = program.replace("%", "%%")
    if not set(text) & set(" \t\n\"'\\><~|&;$*?#()`"):
        return text
    inside = "".join(f"\\{c}" if c in '"`$\\' else c for c in text)
    return '"' + inside.replace("\\", "\\\\") + '"'
