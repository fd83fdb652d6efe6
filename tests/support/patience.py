"""How long a test waits for what should come at once: a busy machine is given its time, and what hangs ends all the same."""

LONG_S = 600
LONG_MS = 1000 * LONG_S
