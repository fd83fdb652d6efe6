"""Free notes of the Daybook, with the pictures that belong to them."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from culmo.errors import CulmoError
from culmo.study.draft import Draft
from culmo.study.file import Command, Row, Study
from culmo.words import tr

# pictures need what reads them, which is slow to load; a note mostly has none
if TYPE_CHECKING:
    from culmo.study.photo_acts import Picture

NOTE_LIMIT = 20_000
MOST_PICTURES = 20


def _checked(text: str, pictures: int) -> str:
    text = text.strip()
    if not text and not pictures:
        raise CulmoError(tr("the note is empty"))
    if len(text) > NOTE_LIMIT:
        raise CulmoError(
            tr("the note has {n} letters; {NOTE_LIMIT} are the most", n=len(text), NOTE_LIMIT=NOTE_LIMIT)
        )
    if pictures > MOST_PICTURES:
        raise CulmoError(
            tr(
                "{n} pictures are too many for one note; {MOST_PICTURES} are the most",
                n=pictures,
                MOST_PICTURES=MOST_PICTURES,
            )
        )
    return text


def _add_pictures(draft: Draft, pictures: "Sequence[Picture]", note_id: int) -> None:
    if pictures:
        from culmo.study.photo_acts import draft_picture

        for picture in pictures:
            draft_picture(draft, picture, note_id=note_id)


def add_note(
    study: Study,
    text: str,
    pictures: "Sequence[Picture]" = (),
    sheet_id: int | None = None,
    paint_id: int | None = None,
) -> Command:
    """A free note, of a sheet or of a paint where it is about one.

    Raises
    ------
    CulmoError
        when it is empty or too long, or a picture can not be kept
    """
    text = _checked(text, len(pictures))
    draft = Draft(study, tr("Note"))
    note_id = draft.add("notes", text=text, sheet_id=sheet_id, paint_id=paint_id, created=draft.at)
    _add_pictures(draft, pictures, note_id)
    words = text or ", ".join(picture.name for picture in pictures)
    draft.tell("note", words, note_id=note_id, sheet_id=sheet_id, paint_id=paint_id)
    return draft.command()


def edit_note(study: Study, note_id: int, text: str, pictures: "Sequence[Picture]" = ()) -> Command:
    """Other words for a note, and further pictures of it; the Daybook's line says the new words."""
    row = study.row("notes", note_id)
    kept = study.rows("photos", "note_id = ?", (note_id,))
    text = _checked(text, len(kept) + len(pictures))
    draft = Draft(study, tr("Change a note"))
    draft.edit("notes", note_id, text=text)
    _add_pictures(draft, pictures, note_id)
    names = [photo["name"] for photo in kept] + [picture.name for picture in pictures]
    for event in _lines_of(study, note_id):
        draft.edit("events", event["id"], text=text or ", ".join(names) or row["text"])
    return draft.command()


def remove_note(study: Study, note_id: int) -> Command:
    """A note goes, with its line; its pictures' files stay where they are."""
    row = study.row("notes", note_id)
    draft = Draft(study, tr("Remove a note"))
    for photo in study.rows("photos", "note_id = ?", (note_id,)):
        draft.remove("photos", photo)
    for event in _lines_of(study, note_id):
        draft.remove("events", event)
    draft.remove("notes", row)
    return draft.command()


def _lines_of(study: Study, note_id: int) -> list[Row]:
    return study.rows("events", "note_id = ?", (note_id,))
