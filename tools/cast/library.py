"""``python -m cast.library CAST LIBRARY``: the demo's whole library, made anew.

Everybody's cards come from the files in ``numbers``; charts and kept searches with them.
"""

from __future__ import annotations

import shutil
import sys
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import msgspec

from cast.cards import Maker, Shelf, morning
from cast.charts import make_charts
from cast.clips import all_clips
from cast.member import Member
from cast.numbers_file import KINDS, Adjusted, Words, clips, crew, gull_clips, of_kind
from cast.pictures import posed, posed_body
from cast.puppet import puppet_cards, puppet_clips
from fox_hand.library.format.library_file import KeptSearch, read_library_file, write_library_file
from fox_hand.library.store.store import Library
from fox_hand.render.engine import Engine

SHEETS = {
    "hands": "Hands",
    "faces": "Face",
    "mouths": "Mouth",
    "eyes": "Eyes",
    "bodies": "Body",
    "clips": "Clips",
}
# of these kinds that many cards are from the first day; what follows came a week later
FIRST = {"hands": 8, "faces": 7, "bodies": 6, "clips": 7}
ORDER = (
    *("Marrow/Hands", "Marrow/Face", "Marrow/Mouth", "Marrow/Eyes", "Marrow/Body", "Marrow/Clips"),
    *(f"{who}/{sheet}" for who in ("Pim", "Quill", "Brandle") for sheet in ("Body", "Hands")),
    *(f"Gull/{sheet}" for sheet in ("Stances", "Views", "Beak", "Wings", "Eyes", "Clips")),
)
SEARCHES = (
    KeptSearch("Grips for props", "tag:prop"),
    KeptSearch("By Tomas, not approved", 'by:"Tomas R." approved:no'),
)


def sheet_of(who: str, kind: str, words: Words) -> str:
    """Where a card belongs."""
    return "/".join(part for part in (who, SHEETS[kind], words.sheet) if part)


def marrows(maker: Maker, member: Member) -> None:
    """Everything there is, for the character that it was made for."""
    for late in (False, True):
        when = morning(19 if late else 12)
        for kind in ("hands", "faces", "mouths", "eyes", "bodies"):
            for n, numbers in enumerate(of_kind(kind).values()):
                if (n >= FIRST.get(kind, 0)) is late:
                    shelf = Shelf(sheet_of("Marrow", kind, numbers), numbers, next(when))
                    maker.card(posed(member.plain, kind, numbers, Adjusted()), shelf)
        made = {one.name: one for one in all_clips(member.rig)}
        for n, words in enumerate(clips().values()):
            if (n >= FIRST["clips"]) is late:
                maker.clip(
                    made[words.name], Shelf(sheet_of("Marrow", "clips", words), words, next(when))
                )


def crews(maker: Maker, member: Member, when: Iterator[str]) -> None:
    """What somebody else of the crew has: lent and adjusted, or their own."""
    who = member.rig.name
    has = crew()[who.lower()]
    for kind in KINDS:
        for name in has.names(kind):
            numbers = of_kind(kind)[name]
            words: Words = msgspec.structs.replace(
                numbers, approved="", note=has.said.get(name, "")
            )
            change = has.adjust.get(name, Adjusted())
            shelf = Shelf(sheet_of(who, kind, words), words, next(when))
            maker.card(posed(member.plain, kind, numbers, change), shelf)
    for own in has.own:
        shelf = Shelf(sheet_of(who, "bodies", own), own, next(when))
        maker.card(posed_body(member.plain, own), shelf)


def main() -> None:
    cast, folder = Path(sys.argv[1]), Path(sys.argv[2])
    maps = folder / ".foxhand" / "maps"
    kept = {path.name: path.read_bytes() for path in maps.glob("*.json")}
    shutil.rmtree(folder, ignore_errors=True)
    library, engine = Library.create(folder, "Night Ferry show", ORDER), Engine()
    maps.mkdir(parents=True)
    for name, data in kept.items():
        (maps / name).write_bytes(data)
    marrow = Member.read(cast, "marrow")
    marrows(Maker(marrow, library, engine), marrow)
    for day, who in ((20, "pim"), (23, "quill"), (24, "brandle")):
        member = Member.read(cast, who)
        crews(Maker(member, library, engine), member, morning(day))
    gull = Member.read(cast, "gull")
    when = morning(25)
    maker = Maker(gull, library, engine)
    for words, one in puppet_cards(gull.rig):
        maker.card(one, Shelf(f"Gull/{words.sheet}", words, next(when)))
    for made in puppet_clips(gull.rig):
        maker.clip(made, Shelf("Gull/Clips", gull_clips()[made.name], next(when)))
    make_charts(library)
    write_library_file(folder, replace(read_library_file(folder), searches=SEARCHES))
    cards = sorted(folder.rglob("*.foxcard"))
    print(len(cards), "cards", sum(path.stat().st_size for path in cards) // 1000, "kB")


if __name__ == "__main__":
    main()
