"""The timing chart: a line for each move from key to key, a tick for every in-between at its place along it.

Keys are ringed, breakdowns underlined; below stands the order in which to draw them.
"""

from __future__ import annotations

import math
import textwrap

from motion import ink
from motion.guide.guide import Guide, Stretch
from motion.ink import Element, add, label, line, say

ROW, LEFT, RIGHT = 46.0, 96.0, 44.0
WIDTH = 880.0
"""Of the whole chart, whether its moves stand in one column or more."""
TOP, BELOW = 10.0, 22.0
LETTER = 6.3
"""How wide a letter of the drawing order is, at most of them."""
ROWS = 6
"""Moves in a column of the chart before a further one is begun."""
ROUNDS = ("Keys first", "then the breakdowns", "then halves", "then halves of those")


def draw(guide: Guide) -> Element:
    """The chart of every move, with the drawing order below."""
    columns = max(1, math.ceil(len(guide.moves) / ROWS))
    rows = math.ceil(len(guide.moves) / columns)
    column = max(440.0, WIDTH / columns)
    letters = int((columns * column - 24) / LETTER)
    order = [part for words in order_of(guide) for part in textwrap.wrap(words, letters, subsequent_indent="    ")]
    root = ink.svg(columns * column, TOP + rows * ROW + BELOW * (len(order) + 0.5), "Timing chart")
    moves = add(root, "g", id="moves")
    for i, move in enumerate(guide.moves):
        _move(moves, move, LEFT + (i // rows) * column, TOP + (i % rows + 0.5) * ROW, column - LEFT - RIGHT)
    said = add(root, "g", id="order", font_size=13, fill=ink.INK)
    for i, words in enumerate(order):
        say(said, words, x=12, y=TOP + rows * ROW + BELOW * (i + 0.7))
    return root


def order_of(guide: Guide) -> list[str]:
    """The order in which to draw, a sentence a round; what is left after the quarters comes last, in order."""
    rounds = list(guide.rounds)
    left = sorted((d for drawings in rounds[len(ROUNDS) :] for d in drawings), key=lambda d: d.number)
    told = [*zip(ROUNDS, rounds, strict=False), *([("then what is left", left)] if left else [])]
    return [f"{name}: {', '.join(str(d.number) for d in drawings)}" for name, drawings in told]


def _move(parent: Element, move: Stretch, x: float, y: float, length: float) -> None:
    group = add(parent, "g", data_move=f"{move.start.number}-{move.end.number}", data_x=x, data_length=length)
    name = f"{move.name}, {move.frames} fr."
    say(group, name, x=x - 26, y=y + 4, font_size=12, fill=ink.SOFT, text_anchor="end")
    line(group, x, y, x + length, y, stroke=ink.INK, stroke_width=1.5)
    for at, drawing in ((x, move.start), (x + length, move.end)):
        line(group, at, y - 9, at, y + 9, stroke=ink.INK, stroke_width=2)
        label(group, at + (-11 if at == x else 14), y - 11 if at == x else y - 2, str(drawing.number), 11, drawing.mark)
    last = -math.inf
    for tick in sorted(move.ticks, key=lambda t: t.share):
        at = x + length * tick.share
        tall = 8 if tick.drawing.mark == "breakdown" else 5.5
        mark = add(group, "g", data_drawing=str(tick.drawing.number), data_free="1" if tick.free else "0")
        colour = ink.LEAF if tick.by_hand else ink.INK
        line(mark, at, y - tall, at, y + tall, stroke=colour, stroke_width=2.4 if tick.by_hand else 1.4)
        # Where ticks crowd, only every number that has room is written.
        if at - last >= 15 or tick.drawing.mark == "breakdown":
            label(mark, at, y + 15, str(tick.drawing.number), 10.5, tick.drawing.mark)
            last = at
