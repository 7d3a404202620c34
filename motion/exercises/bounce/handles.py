"""What can be taken hold of on the guide of a bounce, and what a drag does to its feel."""

from __future__ import annotations

from typing import Any

from motion.brief import Brief
from motion.exercises.bounce.asked import feel_of
from motion.exercises.bounce.plan import Plan
from motion.exercises.exercise import Handle, Place

SMALLEST = 8.0


def handles(brief: Brief, plan: Plan) -> list[Handle]:
    """The ground, the first top, the ball's size, and each contact where the bounce gets somewhere."""
    recipe = plan.recipe
    x, y = _top(plan)
    found = [
        Handle(
            name="ground",
            x=0.0,
            y=recipe.ground_y,
            ways="y",
            line=True,
            label="Ground",
            value=f"{_told(recipe.ground_y)} px from the top",
        ),
        Handle(
            name="top",
            x=x,
            y=y,
            ways="xy",
            label="First top",
            value=f"{_told(recipe.ground_y - recipe.diameter / 2 - y)} px high",
        ),
        Handle(
            name="size",
            x=x + recipe.diameter / 2,
            y=y,
            ways="x",
            label="Size of the ball",
            value=f"{_told(recipe.diameter)} px across",
        ),
    ]
    for number, (place, _) in enumerate(_contacts(brief, plan)):
        found.append(
            Handle(
                name=f"contact-{number}",
                x=place,
                y=recipe.ground_y,
                ways="x",
                label=f"Contact {number + 1}",
                value=f"{_told(place)} px from the left",
            )
        )
    return found


def drag(brief: Brief, plan: Plan, name: str, to: Place) -> dict[str, Any]:
    """What changes of the guide's feel when a handle is dragged to a place (px); nothing for one that is not there."""
    recipe, (x, y) = plan.recipe, to
    top_x, _ = _top(plan)
    if name == "ground":
        return {"ground_y": round(y, 1)}
    if name == "top":
        height = max(1.0, round(recipe.ground_y - recipe.diameter / 2 - y, 1))
        moved = abs(x - top_x) >= 0.5
        return {"height": height, **({"start_x": round(recipe.start_x + x - top_x, 1)} if moved else {})}
    if name == "size":
        return {"diameter": max(SMALLEST, round(2 * abs(x - top_x), 1))}
    contacts = {f"contact-{number}": share for number, (_, share) in enumerate(_contacts(brief, plan))}
    if name in contacts:
        start = round(recipe.start_x, 1)
        return {"start_x": start, "distance": round((x - recipe.start_x) / contacts[name], 1)}
    return {}


def _top(plan: Plan) -> Place:
    recipe = plan.recipe
    x = recipe.start_x + recipe.speed_x * recipe.lead
    return x, recipe.ground_y - recipe.diameter / 2 - plan.flights[0].top


def _contacts(brief: Brief, plan: Plan) -> list[tuple[float, float]]:
    """Where each contact lies (px), and at which share of the whole distance; none where the distance is not set."""
    recipe, feel = plan.recipe, feel_of(brief)
    reach = plan.poses[-1].x - recipe.start_x
    if feel is None or feel.end in ("leaving", "cycle") or not reach:
        return []
    landings = plan.flights if recipe.end == "rest" else plan.flights[:-1]
    flown = [recipe.speed_x * (f.lands - 1) for f in landings]
    return [(recipe.start_x + far, round(far / reach, 5)) for far in flown]


def _told(value: float) -> str:
    return f"{round(value, 1):g}"
