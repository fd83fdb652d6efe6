"""The lights by which pictures are taken, as painters know them."""

from enum import StrEnum


class ShotLight(StrEnum):
    """A light by which pictures are taken."""

    WINDOW = "window"
    BULB = "bulb"
    LED = "led"
    TUBE = "tube"
    GAPPED = "coloured"


SHOT_LIGHTS = tuple(ShotLight)
