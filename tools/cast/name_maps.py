"""``python -m cast.name_maps CAST LIBRARY``: what the crew has said about each other's rigs.

Marrow's cards go on Quill, whose controls have other names: every proposal by role is right for
these two, so it is accepted here once.
"""

from __future__ import annotations

import sys
from pathlib import Path

from fox_hand.core.matching.name_match import MatchSource
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.name_map import write_map
from fox_hand.session.applying.fit_draft import FitDraft
from fox_hand.session.figures.figure import Figure


def main() -> None:
    cast, library = Path(sys.argv[1]), Path(sys.argv[2])
    marrow, path = read_rig(cast / "marrow.glb"), cast / "quill.glb"
    pose = take(marrow, marrow.rest, ChannelFilter.of(marrow, range(len(marrow.controls))))
    card = Card("Everything", pose, character=marrow.name, fingerprint=marrow.fingerprint)
    draft = FitDraft(card, Figure(read_rig(path), path))
    by_role = [r.source for r in draft.rows if r.found is MatchSource.ROLE]
    draft.confirm(by_role, True)
    write_map(library / ".foxhand", draft.saved_as())
    print(*draft.told.names.items(), sep="\n")


if __name__ == "__main__":
    main()
