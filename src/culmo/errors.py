"""The family of expected errors: what happened, to which thing, and what to do."""


class CulmoError(Exception):
    """Something that a painter can mend: shown as it is, never with a traceback."""
