"""The outline with its small search: sheets of all open libraries, and searches that are kept."""

from __future__ import annotations

from collections.abc import Collection

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.app.needs import Shelving
from fox_hand.session.libraries.kept_searches import Kept
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.outline.outline_drop import OutlineDrop
from fox_hand.ui.outline.outline_list import OutlineList, same_search
from fox_hand.ui.outline.outline_rows import OutlineContent, RowKind, Spot
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.event_filter import EventFilter
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.screen_pixels import follow_screen
from fox_hand.ui.widgets.sign import SearchSign

FACE = 20  # pixels
LEAST, USUAL, MOST = 176, 208, 320


class OutlinePanel(QWidget):
    """What there is, whatever is searched for.

    Args:
        theme, workspace: colours; libraries, searches and what is remembered.
        cache: small pictures of earlier days.
    """

    widen_asked = Signal()

    def __init__(self, theme: Theme, workspace: Shelving, cache: PictureCache) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self._chosen: Collection[Spot] = ()
        self._text = ""
        self._asked = 0
        self._built: object = None  # what the rows were made of
        self._faces: dict[Spot, int] = {}  # keys of the cards they are taken from
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setMinimumWidth(LEAST)
        self.setMaximumWidth(MOST)
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("Find a sheet"))
        self.field.setAccessibleName(tr("Find a sheet"))
        self.field.setFixedHeight(28)
        clearable(self.field)
        SearchSign(self.field, theme)
        self.list = OutlineList(theme)
        self.drop = OutlineDrop(self.list, workspace.open_libraries)
        self._pictures = CardPictures(workspace.open_libraries.jobs, cache, self._faces_came)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = QVBoxLayout()
        head.setContentsMargins(12, 8, 12, 4)
        head.addWidget(self.field)
        column.addLayout(head)
        column.addWidget(self.list, 1)
        self.field.textChanged.connect(self.refresh)
        self._back = KeyMap([LocalKey(("Esc",), self._escape)])
        self._from_field = KeyMap(
            [LocalKey(("Down", *ENTER), self.to_rows), LocalKey(("Esc",), self._escape)]
        )
        self._field_keys = EventFilter(self.field, self._heard_field)
        follow_screen(self, self._faces_came)
        self.list.typed.connect(self._type)
        self.list.folded.connect(self._fold)

    def sizeHint(self) -> QSize:
        return QSize(USUAL, 400)

    # -- content --------------------------------------------------------------------------

    def show_state(self, chosen: Collection[Spot], text: str) -> None:
        """What the cards are narrowed to, and what is searched for."""
        if set(chosen) - set(self._chosen):
            self._unfold_to(chosen)
        self._chosen, self._text = chosen, text
        if not self.isHidden():
            self.refresh()

    def _unfold_to(self, chosen: Collection[Spot]) -> None:
        """What the cards are narrowed to is in sight."""
        folds = self._workspace.settings.outline_folds
        for number, sheet in chosen:
            place = self._workspace.open_libraries.place(number)
            parts = sheet.split("/")
            for depth in range(1, len(parts)) if place is not None else ():
                assert place is not None
                folds[f"{place.name}/{'/'.join(parts[:depth])}"] = False

    def refresh(self) -> None:
        """Show what there is now."""
        open_libraries, said = self._workspace.open_libraries, self._workspace.settings
        trees = [
            (place, open_libraries.tree_of(place, said.author)) for place in open_libraries.places
        ]
        searches = self._workspace.kept_searches.all()
        folds, typed = dict(said.outline_folds), self.field.text()
        seen = [(place.tree_is, place.problem, dict(place.waiting_in)) for place, _ in trees]
        if self._built == (seen, searches, folds, typed):
            self.list.show_chosen(self._chosen, self._shown_search(searches))
            return
        self._built = seen, searches, folds, typed
        content = OutlineContent(trees, searches, folds, typed)
        self.list.show_content(content, self._chosen, self._shown_search(searches))
        self._count(searches)
        self._look_for_faces()

    def _shown_search(self, searches: list[Kept]) -> tuple[int, str] | None:
        """The kept search that is what is typed."""
        return next((k.key for k in searches if self._text and same_search(k, self._text)), None)

    def _count(self, searches: list[Kept]) -> None:
        """How many cards each kept search finds; only the last asking counts."""
        self._asked += 1
        number, looking = self._asked, self._workspace.open_libraries.search_in()
        actor = self._workspace.actor
        rig = actor.rig if actor is not None else None

        def work(token: Progress) -> dict[tuple[int, str], int]:
            token.step(0.0)
            return {kept.key: looking.count(kept.text, rig) for kept in searches}

        def show(counts: dict[tuple[int, str], int]) -> None:
            if number == self._asked:
                self.list.counts = counts
                self.list.say()

        def failed(error: Exception) -> None:
            if not isinstance(error, TimeoutError):
                raise error

        if searches:
            self._workspace.open_libraries.jobs.run(work, show, failed)

    # -- faces ----------------------------------------------------------------------------

    def _look_for_faces(self) -> None:
        open_libraries = self._workspace.open_libraries
        self._faces = {}
        for row in self.list.rows:
            if row.kind is RowKind.CHARACTER and row.place and row.node and row.spot:
                self._faces[row.spot] = open_libraries.key_of(row.place, row.node.face)
        missing = [k for k in self._faces.values() if open_libraries.at_hand(k) is None]
        if missing:
            open_libraries.fetch_later(missing, self._faces_came)
        else:
            self._faces_came()

    def _faces_came(self) -> None:
        pixels = round(FACE * self.devicePixelRatioF())
        found: dict[Spot, QImage] = {}
        for spot, key in self._faces.items():
            entry = self._workspace.open_libraries.at_hand(key)
            image = self._pictures.get(entry, pixels) if entry is not None else None
            if image is not None and not image.isNull():
                found[spot] = image
        self.list.faces = found
        self.list.viewport().update()

    # -- keys -----------------------------------------------------------------------------

    def _fold(self, key: str, folded: bool) -> None:
        self._workspace.settings.outline_folds[key] = folded
        self.refresh()

    def _type(self, text: str) -> None:
        self.field.setFocus(Qt.FocusReason.OtherFocusReason)
        self.field.setText(text)

    def _heard_field(self, event: QEvent) -> bool:
        """From the field one goes on to what was found."""
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return False
        return self._from_field.do(event)

    def to_rows(self) -> None:
        """The keyboard goes to the rows: to the first that is found, or where it was."""
        self.list.setFocus(Qt.FocusReason.TabFocusReason)
        if self.list.row < 0 or self.field.text():
            words = self.field.text().casefold().split()
            rows = [n for n, row in enumerate(self.list.rows) if not row.heading]
            own = (
                n
                for n in rows
                if words and any(w in self.list.rows[n].words.casefold() for w in words)
            )
            self.list.go_to(next(own, rows[0] if rows else -1))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._back.do(event):
            event.accept()
        else:
            super().keyPressEvent(event)

    def _escape(self) -> bool:
        """First what is typed here goes, then what the cards are narrowed to."""
        if self.field.text():
            self.field.clear()
            return True
        if self._chosen:
            self.widen_asked.emit()
            return True
        return False
