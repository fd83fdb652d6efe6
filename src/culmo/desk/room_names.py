"""The rooms, as they stand in the window."""

from enum import IntEnum


class RoomName(IntEnum):
    """A room, and its place in the window."""

    BOX = 0
    PLAN = 1
    PAINT = 2
    READ = 3
    WEIGH = 4
    DAYBOOK = 5
