"""The manual: pages in Markdown and their pictures, as they lie in a clone or in what was
installed."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from fox_hand.base.language import language, tr

PACKAGED = Path(__file__).parents[1] / "manual" / "pages"
IN_CLONE = Path(__file__).parents[3] / "docs" / "manual"
NEWS = "news"  # the page of what is new
BEFORE, AFTER = 12, 60  # letters beside a hit
_NUMBER = re.compile(r"^(\d+)-")


@dataclass(frozen=True)
class ManualPage:
    """One page.

    Args:
        name: its file without the ending.
        title: its first heading.
        text: Markdown; pictures are named relative to ``folder``.
        folder: where it lies.
    """

    name: str
    title: str
    text: str
    folder: Path


@dataclass(frozen=True)
class ManualHit:
    """Where a page holds some words.

    Args:
        page: which one.
        line: the words with what stands around them.
        count: how often it holds them.
    """

    page: ManualPage
    line: str
    count: int


def manual_folder() -> Path:
    """Where the pages of the user's language lie: with what was installed, else in the clone. In
    English, where there are none of it."""
    english = PACKAGED if PACKAGED.is_dir() else IN_CLONE
    own = english / language()
    return own if own.is_dir() else english


@cache
def pages(folder: Path) -> tuple[ManualPage, ...]:
    """All of them in their order, and last what is new; none where nothing was shipped."""
    numbered = [(int(m[1]), p) for p in folder.glob("*.md") if (m := _NUMBER.match(p.name))]
    found = [_page(path.stem, path) for _, path in sorted(numbered)]
    own = f"CHANGELOG.{folder.name}.md"  # pages of a language lie in a folder of its name
    beside = [above / name for name in (own, "CHANGELOG.md") for above in folder.parents[:3]]
    news = next((path for path in beside if path.is_file()), None)
    if news is not None:
        page = _page(NEWS, news)
        found.append(ManualPage(NEWS, tr("What is new"), page.text, folder))
    return tuple(found)


def _page(name: str, path: Path) -> ManualPage:
    text = path.read_text("utf-8")
    first = next((line for line in text.splitlines() if line.startswith("# ")), f"# {name}")
    return ManualPage(name, first[2:].strip(), text, path.parent)


def found_in(folder: Path, words: str) -> list[ManualHit]:
    """Pages that hold all of some words, those that say them in the title first."""
    wanted = words.lower().split()
    hits: list[tuple[bool, int, ManualHit]] = []
    for page in pages(folder) if wanted else ():
        plain = re.sub(r"!?\[([^\]]*)\]\([^)]*\)|[*`#|]", r"\1", page.text)
        low = plain.lower()
        if not all(word in low for word in wanted):
            continue
        at, count = low.find(wanted[0]), low.count(wanted[0])
        around = plain[max(at - BEFORE, 0) : at + len(wanted[0]) + AFTER]
        line = " ".join(around.split())
        titled = wanted[0] in page.title.lower()
        hits.append((not titled, -count, ManualHit(page, f"… {line} …", count)))
    return [hit for _, _, hit in sorted(hits, key=lambda one: one[:2])]
