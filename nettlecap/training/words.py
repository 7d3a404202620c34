"""What drills say: kinds of question, what each asks, and what is said to an answer. Kind, and without points."""

from __future__ import annotations

from dataclasses import dataclass

from motion.catalogue import PRINCIPLE_NAMES, name_of
from nettlecap.training.models import Question


@dataclass(frozen=True, slots=True)
class About:
    """A kind of question: its name, and what one does in it."""

    name: str
    does: str


KINDS = {
    "spot": About("Spot it", "a clip plays; say what is off, or that nothing is"),
    "which": About("Which is right", "the same motion twice, once with a fault"),
    "rate": About("Which rate", "how many new drawings a second"),
    "order": About("Order five drawings", "lay them in the order in which they come"),
    "place": About("Put it where it belongs", "one drawing slipped; put it back on its way"),
    "count": About("How many frames", "tell by eye how long a part of the motion takes"),
}
RATES = {
    24: "24 new drawings a second (24 a second, on ones)",
    12: "12 new drawings a second (24 a second, on twos)",
    6: "6 new drawings a second (12 a second, on twos)",
}
SIZES = ((2.0, "slight"), (4.0, "clear"))


def size_word(times: float) -> str:
    """How a fault of so many times its tolerance is called."""
    return next((word for most, word in SIZES if times <= most), "strong")


def asks(question: Question) -> str:
    """What a question asks, as a sentence."""
    nouns = question.of_exercise.nouns
    return {
        "spot": f"Watch the {nouns.run}. Is something off?",
        "which": f"The same {nouns.run} twice. Which one is right?",
        "rate": "How many new drawings does it show a second?",
        "order": "The first drawing lies in its place. Which come next?",
        "place": f"One drawing of the {nouns.mover} has slipped. Put it where it belongs.",
        "count": f"From one {nouns.moment} to the next: how many frames does this {nouns.part} take?",
    }[question.kind]


def verdict(question: Question) -> str:
    """How an answer is, in a few words."""
    if question.kind == "spot":
        return _of_spot(question)
    if question.right:
        return {"order": "In order.", "place": "There it belongs.", "count": "Well counted."}.get(question.kind, "Yes.")
    return {
        "which": "It is the other one.",
        "rate": f"It shows {question.known['truth'].get('rate')}.",
        "order": "Not quite in order.",
        "place": "The checks would still find it.",
        "count": f"It takes {question.known['truth'].get('frames')}.",
    }[question.kind]


def _of_spot(question: Question) -> str:
    off, there = question.said["off"], question.known["finding"] is not None
    if not there:
        clean = "Its marker let it be." if question.take_id else "This one is clean."
        return clean if off else "Nothing is off in it, as you said."
    if question.right:
        return "You saw it."
    return "Something was off; it was this." if off else "There was something to see."


def why(question: Question) -> str:
    """One sentence more, where there is something to say."""
    truth, said = question.known["truth"], question.said
    if question.kind == "spot":
        return _why_spot(question)
    if question.kind == "which":
        return f"The {truth['side']} one is as it belongs."
    if question.kind == "rate":
        return RATES[truth["rate"]][:1].upper() + RATES[truth["rate"]][1:] + "."
    if question.kind == "order":
        return "Below, the drawings stand as they come."
    if question.kind == "place":
        return "Dashed is where the motion itself would have it." + (
            "" if question.right else f" {question.result['left'][0]['message']}"
        )
    off = said["frames"] - truth["frames"]
    if off == 0:
        return f"You said {said['frames']}, and so it is."
    how = f"{abs(off)} frame{'s' if abs(off) > 1 else ''} {'more' if off > 0 else 'fewer'}"
    return f"You said {said['frames']}, {how} than there are: {truth['frames']}."


def _why_spot(question: Question) -> str:
    said, found = question.said, question.known["finding"]
    if found is None:
        if not said["off"] or question.take_id:
            return ""
        return "The checks find nothing in it either: watch it once more, and let it be."
    parts = question.result["parts"]
    told = []
    if "fault" in parts:
        named = name_of(question.exercise, said["code"])
        told.append("You named it rightly" if parts["fault"] else f"You called it “{named.lower()}”")
    elif "principle" in parts:
        named = PRINCIPLE_NAMES[said["principle"]]
        told.append(f"You put it to {named.lower()}" + (", rightly" if parts["principle"] else ""))
    if "frame" in parts:
        place = {True: " and at its place", False: " at another place"}.get(parts.get("place"), "")
        where = f", where it is{place}" if parts["frame"] and parts.get("place") is not False else place
        told.append(f"pointed at frame {said['frame']}{where}")
    return f"{' and '.join(told)}." if told else ""
