"""The parts of the bench."""


def show(what: str, value: float, limit: float, unit: str = "") -> bool:
    """Print a figure beside its limit and say whether it holds."""
    fine = value <= limit
    print(f"{'ok  ' if fine else 'MISS'} {what}: {value:.3g}{unit} (at most {limit:g}{unit})")
    return fine
