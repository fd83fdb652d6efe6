"""`make bench`: speeds as ratios against a yardstick in the same run, and the model's errors. See docs/bench.md."""

import argparse
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from tools.benches import (  # noqa: E402 - the tests' support code is needed first
    advice,
    box,
    cameras,
    following,
    foreign,
    large,
    model,
    order,
    patches,
    plan,
    read,
    speed,
    strip,
    texture,
    weigh,
    window,
)

PARTS = {
    "window": window.run,
    "speed": speed.run,
    "box": box.run,
    "plan": plan.run,
    "order": order.run,
    "read": read.run,
    "foreign": foreign.run,
    "cameras": cameras.run,
    "strip": strip.run,
    "texture": texture.run,
    "patches": patches.run,
    "weigh": weigh.run,
    "advice": advice.run,
    "large": large.run,
    "model": model.run,
    "following": following.run,
}


def main() -> int:
    """Run the parts named, or all."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("parts", nargs="*", choices=[*PARTS, []], default=[])
    chosen = parser.parse_args().parts or list(PARTS)
    fine = True
    for name in chosen:
        print(f"== {name}")
        fine = all([PARTS[name](), fine])
    return 0 if fine else 1


if __name__ == "__main__":
    sys.exit(main())
