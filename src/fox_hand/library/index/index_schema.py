"""Tables of a library's index. It is a cache: any other version is thrown away and built anew."""

from __future__ import annotations

VERSION = 6

# Columns of a card that its words are searched in. The full-text table keeps no text of its own:
# it looks it up in ``card``. Triggers follow changed and deleted rows; the words of new rows are
# added in one statement for many of them, which takes a tenth of the time of a trigger.
# A card's number is never given to another one: what is ticked in a window would else be a card
# that nobody ticked, once a colleague has removed one and added another.
WORDS = ("name", "tags", "note", "sheet", "author")

TABLES = """
CREATE TABLE card (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    path TEXT NOT NULL UNIQUE,
    sheet TEXT NOT NULL,
    mtime INTEGER NOT NULL, size INTEGER NOT NULL, inode INTEGER NOT NULL,
    identity TEXT NOT NULL,
    name TEXT NOT NULL,
    ordered TEXT NOT NULL,
    revision INTEGER NOT NULL,
    region INTEGER NOT NULL, side INTEGER NOT NULL, kind TEXT NOT NULL,
    tags TEXT NOT NULL, note TEXT NOT NULL, author TEXT NOT NULL, licence TEXT NOT NULL,
    character TEXT NOT NULL, fingerprint TEXT NOT NULL,
    created TEXT NOT NULL, changed TEXT NOT NULL, changed_by TEXT NOT NULL,
    content TEXT NOT NULL, changed_at INTEGER NOT NULL,
    approved_by TEXT NOT NULL, approved_at TEXT NOT NULL,
    count INTEGER NOT NULL, holds TEXT NOT NULL,
    shape INTEGER NOT NULL,
    picture INTEGER NOT NULL,
    code TEXT NOT NULL, happened TEXT NOT NULL, kept TEXT NOT NULL, todo TEXT NOT NULL
);
CREATE INDEX card_identity ON card (identity);
CREATE TABLE shape (id INTEGER PRIMARY KEY, names TEXT NOT NULL UNIQUE);
CREATE TABLE pose (id INTEGER PRIMARY KEY, shape INTEGER NOT NULL, numbers BLOB NOT NULL);
CREATE INDEX pose_shape ON pose (shape);
CREATE VIRTUAL TABLE words USING fts5 (
    name, tags, note, sheet, author,
    content = 'card', content_rowid = 'id', detail = 'column', prefix = '2 3',
    tokenize = 'unicode61 remove_diacritics 2'
);
CREATE VIRTUAL TABLE vocabulary USING fts5vocab (words, 'row');
CREATE TRIGGER card_gone AFTER DELETE ON card BEGIN
    INSERT INTO words (words, rowid, name, tags, note, sheet, author)
    VALUES ('delete', old.id, old.name, old.tags, old.note, old.sheet, old.author);
    DELETE FROM pose WHERE id = old.id;
END;
CREATE TRIGGER card_changed AFTER UPDATE ON card BEGIN
    INSERT INTO words (words, rowid, name, tags, note, sheet, author)
    VALUES ('delete', old.id, old.name, old.tags, old.note, old.sheet, old.author);
    INSERT INTO words (rowid, name, tags, note, sheet, author)
    VALUES (new.id, new.name, new.tags, new.note, new.sheet, new.author);
END;
"""

NEW_WORDS = f"""
INSERT INTO words (rowid, {", ".join(WORDS)})
SELECT id, {", ".join(WORDS)} FROM card WHERE id > ?
"""

COLUMNS = (
    "path",
    "sheet",
    "mtime",
    "size",
    "inode",
    "identity",
    "name",
    "ordered",
    "revision",
    "region",
    "side",
    "kind",
    "tags",
    "note",
    "author",
    "licence",
    "character",
    "fingerprint",
    "created",
    "changed",
    "changed_by",
    "content",
    "changed_at",
    "approved_by",
    "approved_at",
    "count",
    "holds",
    "shape",
    "picture",
    "code",
    "happened",
    "kept",
    "todo",
)
