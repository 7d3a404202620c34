"""A brief's form as a browser sends it."""

from __future__ import annotations

import json

from motion.brief import Brief
from nettlecap.classroom import brief_keys
from nettlecap.classroom.forms import BriefForm


def filled(core: Brief, **changes: object) -> dict[str, object]:
    """The form's values for a brief; what is not ticked is not sent."""
    form = BriefForm(core.exercise, initial=brief_keys.from_core(core))
    told = {name: form[name].value() for name in form.fields}
    values = {
        k: json.dumps(v) if isinstance(v, dict) else v for k, v in told.items() if v is not None and v is not False
    }
    return {**values, "exercise": core.exercise, "due_at": "2031-01-15T18:00", **changes}
