"""What the window remembers between two days, declared once and passed in."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QSettings, QStandardPaths

from culmo.desk.room_names import RoomName

if TYPE_CHECKING:
    from culmo.desk.drawing.export import PrintOptions

MOST_RECENT = 8
SIZES = (90, 100, 110, 120, 130, 145, 160)  # of the window's text, in per cent
USUAL = 100


@dataclass
class Settings:
    """A thin reader and writer of the settings file.

    Attributes
    ----------
    store : QSettings, an INI file
    learned : Path, the folder where what studies teach is kept; None where nothing is
    """

    store: QSettings
    learned: Path | None = None

    @classmethod
    def at(cls, path: Path, learned: Path | None = None) -> "Settings":
        """Settings in a file of one's own choice."""
        return cls(QSettings(str(path), QSettings.Format.IniFormat), learned)

    @classmethod
    def of_user(cls) -> "Settings":
        """The user's settings."""
        place = QStandardPaths.StandardLocation
        folders = (place.GenericConfigLocation, place.GenericCacheLocation)
        config, cache = (Path(QStandardPaths.writableLocation(folder)) / "culmo" for folder in folders)
        return cls.at(config / "culmo.ini", cache / "learned")

    @property
    def geometry(self) -> QByteArray:
        """The window's place and size."""
        value = self.store.value("window/geometry")
        return value if isinstance(value, QByteArray) else QByteArray()

    @geometry.setter
    def geometry(self, value: QByteArray) -> None:
        self.store.setValue("window/geometry", value)

    @property
    def room(self) -> RoomName:
        """The room last used."""
        try:
            return RoomName(int(str(self.store.value("window/room", 0))))
        except ValueError:
            return RoomName.BOX

    @room.setter
    def room(self, value: RoomName) -> None:
        # a plain number: Qt would write an object of Python's own
        self.store.setValue("window/room", int(value))

    @property
    def card(self) -> tuple[str, int]:
        """The file with the values of the reference card last used, and the rows of its patches; no file where none was."""
        try:
            rows = min(max(int(str(self.store.value("read/card_rows", 1))), 1), 40)
        except ValueError:
            rows = 1
        return str(self.store.value("read/card", "") or ""), rows

    @card.setter
    def card(self, value: tuple[str, int]) -> None:
        self.store.setValue("read/card", value[0])
        self.store.setValue("read/card_rows", value[1])

    @property
    def light(self) -> str:
        """By which light pictures are taken, as was said last; empty where nothing was."""
        return str(self.store.value("read/light", "") or "")

    @light.setter
    def light(self, value: str) -> None:
        self.store.setValue("read/light", value)

    @property
    def box(self) -> str:
        """The name of the box last in use."""
        return str(self.store.value("window/box", "") or "")

    @box.setter
    def box(self, value: str) -> None:
        self.store.setValue("window/box", value)

    def keep_box(self, name: str) -> None:
        """Remember the box in use."""
        self.box = name

    @property
    def pictures_inside(self) -> bool:
        """Whether pictures are kept inside the study, not beside it."""
        return str(self.store.value("read/inside", "no")) == "yes"

    @pictures_inside.setter
    def pictures_inside(self, value: bool) -> None:
        self.store.setValue("read/inside", "yes" if value else "no")

    @property
    def scheme(self) -> str:
        """Light or night: "system", "light" or "night"."""
        value = str(self.store.value("window/scheme", "system"))
        return value if value in ("system", "light", "night") else "system"

    @scheme.setter
    def scheme(self, value: str) -> None:
        self.store.setValue("window/scheme", value)

    @property
    def text_size(self) -> int:
        """How large the window's text is, in per cent of the system's."""
        try:
            return min(max(int(str(self.store.value("window/text", USUAL))), SIZES[0]), SIZES[-1])
        except ValueError:
            return USUAL

    @text_size.setter
    def text_size(self, value: int) -> None:
        self.store.setValue("window/text", value)

    @property
    def language(self) -> str:
        """The language of the window: a code, or empty for the system's."""
        return str(self.store.value("window/language", "") or "")

    @language.setter
    def language(self, value: str) -> None:
        self.store.setValue("window/language", value)

    @property
    def unit(self) -> str:
        """The unit that sheets were planned in last: "mm" or "in"."""
        return "in" if str(self.store.value("plan/unit", "mm")) == "in" else "mm"

    @unit.setter
    def unit(self, value: str) -> None:
        self.store.setValue("plan/unit", value)

    def print_options(self) -> "PrintOptions":
        """How a sheet was printed or written last."""
        from culmo.desk.drawing.export import PrintOptions  # what draws is not needed at the start

        entry = {key: self.store.value(f"out/{key}") for key in ("recipes", "colour", "numbers", "bar")}
        ticks = {key: entry[key] == "yes" for key in ("colour", "numbers", "bar") if entry[key] is not None}
        recipes = {} if entry["recipes"] is None else {"recipes": str(entry["recipes"])}
        return _print_options(ticks | recipes) or PrintOptions()

    def keep_print_options(self, options: "PrintOptions") -> None:
        """Remember how, for the next time."""
        self.store.setValue("out/recipes", options.recipes)
        for key in ("colour", "numbers", "bar"):
            self.store.setValue(f"out/{key}", "yes" if getattr(options, key) else "no")

    def print_ways(self) -> "dict[str, PrintOptions]":
        """Ways of printing that the painter kept under a name."""
        try:
            kept = json.loads(str(self.store.value("out/ways", "{}")))
        except ValueError:
            return {}
        found = {
            name: _print_options(entry)
            for name, entry in (kept.items() if isinstance(kept, dict) else ())
            if isinstance(entry, dict)
        }
        return {name: options for name, options in found.items() if options is not None}

    def keep_print_way(self, name: str, options: "PrintOptions") -> None:
        """Keep a way of printing under a name; another of that name goes."""
        self._put_ways(self.print_ways() | {name: options})

    def forget_print_way(self, name: str) -> None:
        """Let a kept way of printing go."""
        self._put_ways({other: way for other, way in self.print_ways().items() if other != name})

    def _put_ways(self, ways: "Mapping[str, PrintOptions]") -> None:
        entries = {
            name: {"colour": way.colour, "numbers": way.numbers, "recipes": way.recipes, "bar": way.bar}
            for name, way in ways.items()
        }
        self.store.setValue("out/ways", json.dumps(entries, ensure_ascii=False))

    @property
    def watched(self) -> str:
        """The folder in which new pictures are looked for; empty for none."""
        return str(self.store.value("read/watched", "") or "")

    @watched.setter
    def watched(self, value: str) -> None:
        self.store.setValue("read/watched", value)

    @property
    def recent(self) -> list[str]:
        """Studies lately opened, the last first."""
        value = self.store.value("recent", [])
        return [str(item) for item in value] if isinstance(value, list) else [str(value)] if value else []

    def remember(self, path: Path) -> None:
        """Put a study at the head of the recent ones."""
        text = str(path.resolve())
        self.store.setValue("recent", [text, *(item for item in self.recent if item != text)][:MOST_RECENT])


def _print_options(entry: Mapping[str, object]) -> "PrintOptions | None":
    """How a sheet is printed, as it was written down; None where that is damaged."""
    from culmo.desk.drawing.export import PrintOptions  # what draws is not needed at the start

    usual = PrintOptions()
    ticks = {key: entry.get(key, getattr(usual, key)) for key in ("colour", "numbers", "bar")}
    recipes = entry.get("recipes", usual.recipes)
    if not all(isinstance(tick, bool) for tick in ticks.values()) or recipes not in (
        "",
        "name",
        "number",
        "code",
    ):
        return None
    return PrintOptions(bool(ticks["colour"]), bool(ticks["numbers"]), str(recipes), bool(ticks["bar"]))
