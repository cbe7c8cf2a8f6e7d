"""What a desktop is told of this program: menu entry, icons, kinds of files, small pictures, manual
page and completion of words. The build reads this too, where nothing else is installed."""

from __future__ import annotations

from html import escape
from importlib import resources

from fox_hand.base.system.man_page import man_page

SIZES = (16, 24, 32, 48, 64, 128, 256, 512)
PICTURES = (  # names below docs/screenshots, and what is seen
    ("main", "A pose is put on", "Eine Pose wird aufgelegt"),
    ("capture", "A hand becomes a card", "Eine Hand wird eine Karte"),
    ("shot", "A shot made of cards", "Ein Shot aus Karten"),
)
SHELLS = {
    "bash": "bash-completion/completions/fox-hand",
    "zsh": "zsh/site-functions/_fox-hand",
    "fish": "fish/vendor_completions.d/fox-hand.fish",
}


def files_for(program: str, site: str = "") -> dict[str, bytes]:
    """Every file below a data folder (``~/.local/share`` or ``/usr/share``), by its place.

    Args:
        program: how the program is called, as the desktop is to call it.
        site: address on the web that has our pictures below ``screenshots``, for catalogues of
            programs, which take no others (AppStream 1.0, "screenshots"); empty for none.
    """
    folder = resources.files("fox_hand.base.desktop")

    def text(name: str) -> bytes:
        said = folder.joinpath(name).read_text("utf-8").replace("@PATH@", program)
        said = said.replace("@SITE@", pictured(site))
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


def pictured(site: str) -> str:
    """What a catalogue of programs is told of a site: the address, and pictures that lie there."""
    if not site:
        return ""
    base = escape(site.rstrip("/"))
    found = [f'  <url type="homepage">{base}</url>', "  <screenshots>"]
    for number, (name, english, german) in enumerate(PICTURES):
        kind = ' type="default"' if number == 0 else ""
        found += [
            f"    <screenshot{kind}>",
            f"      <caption>{english}</caption>",
            f'      <caption xml:lang="de">{german}</caption>',
            f'      <image type="source">{base}/screenshots/{name}.png</image>',
            "    </screenshot>",
        ]
    return "\n".join([*found, "  </screenshots>", ""])


def quoted(program: str) -> str:
    """A program in a line that starts it, as the Desktop Entry Specification 1.5 writes it
    ("The Exec key"): quotes where a letter has a meaning, and its escapes twice."""
    text = program.replace("%", "%%")
    if not set(text) & set(" \t\n\"'\\><~|&;$*?#()`"):
        return text
    inside = "".join(f"\\{c}" if c in '"`$\\' else c for c in text)
    return '"' + inside.replace("\\", "\\\\") + '"'
