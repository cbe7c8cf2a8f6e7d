"""The style sheet of the standard widgets, made from the tokens."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QColor, QPalette

from fox_hand.ui.theme.theme import FAMILY
from fox_hand.ui.theme.tokens import Tokens

# files, as style sheets and fields know no other icons; their grey has 3:1 on the fields of all
# themes
ICONS = Path(__file__).parents[1] / "icons"
ARROW, CLEAR = ((ICONS / name).as_posix() for name in ("choice-arrow.svg", "field-clear.svg"))


def style_sheet(t: Tokens) -> str:
    """Everything that is not painted by hand."""
    return f"""
* {{ font-family: "{FAMILY}"; font-size: 12px; color: {t.text}; outline: none; }}
QWidget#desk, QDialog {{ background: {t.window}; }}
QWidget[panel="true"] {{ background: {t.panel}; }}
QWidget[floating="true"] {{
    background: {t.panel}; border: 1px solid {t.line}; border-radius: 8px;
}}
{_words_and_plates(t)}{_offered(t)}
QToolTip {{
    background: {t.high}; color: {t.text}; border: 1px solid {t.line}; padding: 4px 8px;
}}
QLineEdit, QPlainTextEdit, QAbstractSpinBox {{
    background: {t.field}; border: 1px solid {t.line}; border-radius: 6px; padding: 0 8px;
    selection-background-color: {t.high}; selection-color: {t.text};
}}
QPlainTextEdit {{ padding: 4px; }}
QLineEdit:focus, QPlainTextEdit:focus, QAbstractSpinBox:focus {{
    border: 2px solid {t.text}; padding: 0 7px;
}}
QPlainTextEdit:focus {{ padding: 3px; }}
QLineEdit:disabled, QPlainTextEdit:disabled, QAbstractSpinBox:disabled {{ color: {t.quiet}; }}
QTextBrowser {{ background: {t.panel}; border: none; }}
QScrollArea {{ background: transparent; border: none; }}
QScrollArea > QWidget > QWidget {{ background: transparent; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar::handle:vertical {{
    background: {t.high}; min-height: 32px; border-radius: 3px; margin: 2px 2px 2px 4px;
}}
QScrollBar::handle:vertical:hover {{ background: {t.line}; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QMenu {{ background: {t.raised}; border: 1px solid {t.line}; padding: 4px; }}
QMenu::item {{ padding: 6px 24px 6px 12px; border-radius: 4px; }}
QMenu::item:selected {{ background: {t.high}; }}
QMenu::item:disabled {{ color: {t.quiet}; }}
QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 8px; }}
QMenu::icon {{ padding-left: 8px; }}
QListView[painted="true"] {{ background: transparent; border: none; }}
QSplitter::handle {{ background: {t.line}; }}
QSplitter::handle:hover {{ background: {t.quiet}; }}
QCheckBox {{ spacing: 8px; }}
QComboBox {{
    background: {t.field}; border: 1px solid {t.line}; border-radius: 6px; padding: 0 8px;
    min-height: 24px;
}}
QComboBox:focus {{ border: 2px solid {t.text}; padding: 0 7px; }}
QComboBox:disabled {{ color: {t.quiet}; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url("{ARROW}"); width: 12px; height: 12px; }}
QComboBox QAbstractItemView {{
    background: {t.raised}; border: 1px solid {t.line}; selection-background-color: {t.high};
}}
"""


def _words_and_plates(t: Tokens) -> str:
    """Labels by their role and tone, grounds by their kind."""
    return f"""
QLabel {{ background: transparent; }}
QLabel[quiet="true"] {{ color: {t.quiet}; }}
QLabel[small="true"] {{ font-size: 11px; }}
QLabel[role="title"] {{ font-size: 13px; font-weight: 600; }}
QLabel[role="large"] {{ font-size: 24px; font-weight: 600; }}
QLabel[role="screen"] {{ font-size: 15px; font-weight: 600; }}
QLabel[role="heading"] {{ font-weight: 600; }}
QLabel[role="amount"] {{ color: {t.accent_text}; font-size: 24px; font-weight: 600; }}
QLabel[tone="accent"] {{ color: {t.accent_text}; font-weight: 600; }}
QLabel[tone="warning"] {{ color: {t.warning}; }}
QLabel[tone="warned"] {{ color: {t.warning}; font-weight: 600; }}
QLabel[tone="ink"] {{ color: {t.ink}; }}
QLabel[plate="warning"] {{
    color: {t.warning}; background: {t.warning_ground}; border-radius: 6px; padding: 8px;
}}
QLabel[plate="busy"] {{ background: {t.panel}; border-radius: 8px; padding: 8px 12px; }}
QWidget[plate="warning"] {{ background: {t.warning_ground}; border-radius: 6px; }}
QWidget[plate="raised"] {{ background: {t.raised}; border-radius: 6px; }}
QWidget[plate="heading"] {{ background: {t.raised}; }}
QWidget[plate="panel"] {{
    background: {t.panel}; border: 1px solid {t.line}; border-radius: 8px;
}}
QWidget[plate="line"] {{ background: {t.line}; }}
QWidget[plate="above"] {{ border-bottom: 1px solid {t.line}; }}
QWidget[plate="below"] {{ border-top: 1px solid {t.line}; }}
QLineEdit[role="amount"] {{
    background: transparent; border: none; padding: 0; font-size: 24px; font-weight: 600;
    color: {t.accent_text};
}}
QLineEdit[role="amount"]:focus {{
    border: none; border-bottom: 2px solid {t.accent_text}; padding: 0;
}}
"""


def _offered(t: Tokens) -> str:
    """Words that are offered below a field."""
    return f"""
QListView[offered="true"] {{
    background: {t.raised}; border: 1px solid {t.line}; border-radius: 6px; padding: 4px;
}}
QListView[offered="true"]::item {{
    min-height: 24px; padding: 0 8px; border-radius: 4px; color: {t.text};
}}
QListView[offered="true"]::item:selected, QListView[offered="true"]::item:hover {{
    background: {t.high};
}}
"""


def dialog_sheet(t: Tokens) -> str:
    """Questions and the file dialog."""
    return f"""
QMessageBox, QInputDialog, QFileDialog {{ background: {t.panel}; }}
QDialog QPushButton {{
    background: {t.raised}; border: 1px solid {t.line}; border-radius: 6px; padding: 0 12px;
    min-height: 26px; min-width: 64px; font-weight: 500;
}}
QDialog QPushButton:hover, QDialog QPushButton:pressed {{ background: {t.high}; }}
QDialog QPushButton:focus {{ border: 2px solid {t.text}; padding: 0 11px; }}
QDialog QPushButton:disabled {{ color: {t.quiet}; background: {t.panel}; }}
QDialog QLineEdit {{ min-height: 26px; }}
QDialog QToolButton {{
    background: transparent; border: none; border-radius: 4px; padding: 4px;
}}
QDialog QToolButton:hover, QDialog QToolButton:checked {{ background: {t.high}; }}
QDialog QComboBox {{
    background: {t.field}; border: 1px solid {t.line}; border-radius: 6px; padding: 0 8px;
    min-height: 26px;
}}
QAbstractItemView {{
    background: {t.field}; alternate-background-color: {t.panel}; border: 1px solid {t.line};
    selection-background-color: {t.high}; selection-color: {t.text};
}}
QHeaderView::section {{
    background: {t.raised}; border: none; border-right: 1px solid {t.line}; padding: 4px 8px;
}}
QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
QScrollBar::handle:horizontal {{
    background: {t.high}; min-width: 32px; border-radius: 3px; margin: 4px 2px 2px 2px;
}}
"""


def manual_sheet(t: Tokens) -> str:
    """Pages of the manual."""
    return f"""
body, p, li, td {{ color: {t.text}; }}
h1, h2, h3 {{ color: {t.text}; font-weight: 600; margin-top: 20px; margin-bottom: 8px; }}
h1 {{ font-size: 20px; }}
h2 {{ font-size: 15px; }}
h3 {{ font-size: 13px; }}
p, li {{ margin-bottom: 6px; }}
a {{ color: {t.accent_text}; text-decoration: none; }}
code, pre {{ color: {t.text}; background-color: {t.raised}; font-family: monospace; }}
td, th {{ padding: 4px 12px 4px 0; }}
"""


def palette(t: Tokens) -> QPalette:
    """The same colours for whatever the style sheet does not name."""
    made = QPalette()
    role = QPalette.ColorRole
    for name, colour in (
        (role.Window, t.panel),
        (role.Base, t.field),
        (role.AlternateBase, t.panel),
        (role.Button, t.raised),
        (role.Text, t.text),
        (role.WindowText, t.text),
        (role.ButtonText, t.text),
        (role.ToolTipBase, t.high),
        (role.ToolTipText, t.text),
        (role.PlaceholderText, t.quiet),
        (role.Highlight, t.high),
        (role.HighlightedText, t.text),
        (role.Link, t.accent_text),
    ):
        made.setColor(name, QColor(colour))
    return made
