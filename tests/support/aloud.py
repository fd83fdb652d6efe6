"""Reads Culmo's window as a screen reader does, over the accessibility bus.

Run by the system's Python, which has the bus's library. It knows nothing of Culmo:
it looks for the window, presses each of the first tabs that it finds, and writes down what
it is told of everything that is on view.
"""

import json
import sys
import time

import gi

gi.require_version("Atspi", "2.0")
from gi.repository import Atspi  # noqa: E402 - its version is asked for first

PATIENCE_S = 40.0


def wait_for(find):
    """What `find` gives once it gives something; ends the program where it never does."""
    until = time.monotonic() + PATIENCE_S
    while time.monotonic() < until:
        found = find()
        if found:
            return found
        time.sleep(0.2)
    sys.exit(f"waited in vain: {find.__name__}")


def children(of):
    return [child for child in (of.get_child_at_index(i) for i in range(of.get_child_count())) if child]


def states(of):
    return sorted(state.value_nick for state in of.get_state_set().get_states())


def window():
    desktop = Atspi.get_desktop(0)
    for program in children(desktop):
        if program.get_name() == "Culmo":
            for frame in children(program):
                if "Culmo" in frame.get_name() and "showing" in states(frame):
                    return frame
    return None


def of_role(root, role):
    """The first thing of a role, in the order of the tree."""
    if root.get_role_name() == role:
        return root
    for child in children(root):
        found = of_role(child, role) if child.get_role_name() != "menu bar" else None
        if found:
            return found
    return None


def label_of(thing):
    """The words of the label that is bound to it."""
    for relation in thing.get_relation_set():
        if relation.get_relation_type() == Atspi.RelationType.LABELLED_BY:
            return relation.get_target(0).get_name()
    return ""


def seen(root, depth=0):
    """Everything on view, as it is told."""
    own = states(root)
    if "showing" not in own or root.get_role_name() == "menu bar":
        return
    yield {
        "role": root.get_role_name(), "name": root.get_name(), "about": root.get_description(), "states": own,
        "depth": depth, "labelled": label_of(root),
    }  # fmt: skip
    for child in children(root):
        yield from seen(child, depth + 1)


def settled(root):
    """What is on view when it no longer changes."""
    before = None
    while True:
        now = list(seen(root))
        if now == before:
            return now
        before = now
        time.sleep(0.5)


def main():
    Atspi.set_timeout(30_000, 60_000)  # its own patience is under a second, which a busy machine may need
    frame = wait_for(window)

    def tabs():
        return of_role(frame, "page tab list")

    rooms = children(wait_for(tabs))
    found = {}
    for tab in rooms:
        Atspi.Action.do_action(tab, 0)
        found[tab.get_name()] = settled(frame)
    print(json.dumps(found))


if __name__ == "__main__":
    main()
