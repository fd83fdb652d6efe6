"""An act of the painter while it is put together."""

from typing import Any

from culmo.study.file import Change, Command, Row, Study


class Draft:
    """Gathers the changes of one act."""

    def __init__(self, study: Study, title: str) -> None:
        self.study, self.title = study, title
        self.changes: list[Change] = []
        self._next: dict[str, int] = {}
        self._rows: dict[tuple[str, int], Row] = {}  # as this act leaves them so far
        self._gone: set[tuple[str, int]] = set()
        self.at = study.clock()

    def add(self, table: str, **values: Any) -> int:
        """A new row; gives its id."""
        row_id = self._next.get(table) or self.study.next_id(table)
        self._next[table] = row_id + 1
        self._rows[table, row_id] = {"id": row_id, **values}
        self.changes.append(Change(table, row_id, None, self._rows[table, row_id]))
        return row_id

    def edit(self, table: str, row_id: int, **values: Any) -> bool:
        """New values in a row; says whether anything differs."""
        before = self._rows.get((table, row_id)) or self.study.row(table, row_id)
        after = {**before, **values}
        if after == before:
            return False
        self._rows[table, row_id] = after
        self.changes.append(Change(table, row_id, before, after))
        return True

    def stays(self, table: str, row_id: int) -> bool:
        """Whether this act leaves the row in place."""
        return (table, row_id) not in self._gone

    def pending(self) -> list[tuple[tuple[str, int], Row]]:
        """The rows that this act has touched so far, as it leaves them."""
        return list(self._rows.items())

    def remove(self, table: str, row: Row) -> None:
        """A row goes, and with a reading its patches."""
        if table == "readings":
            for patch in self.study.rows("patches", "reading_id = ?", (row["id"],)):
                self.remove("patches", patch)
        self._gone.add((table, row["id"]))
        self.changes.append(Change(table, row["id"], row, None))

    def tell(self, kind: str, text: str, **about: int | None) -> None:
        """A line of the Daybook."""
        self.add("events", at=self.at, kind=kind, text=text, **about)

    def command(self) -> Command:
        """The act, ready to be carried out."""
        return Command(self.title, tuple(self.changes))
