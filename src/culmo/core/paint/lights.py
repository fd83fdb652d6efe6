"""The lights by which pictures are taken, as painters know them."""

WINDOW, BULB, LED, TUBE, GAPPED = "window", "bulb", "led", "tube", "coloured"
SHOT_LIGHTS = (WINDOW, BULB, LED, TUBE, GAPPED)
