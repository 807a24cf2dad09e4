"""What comes back when: five boxes. A right answer moves a card one box on, a wrong one back to the
first; a box says after how many days the card is asked again. Known is the last box."""

BOXES = (0, 1, 3, 7, 21)


def next_box(box: int, right: bool) -> tuple[int, int]:
    """(the box a card goes to, the days until it is asked again)."""
    to = min(box + 1, len(BOXES) - 1) if right else 0
    return to, BOXES[to]
