"""Which database the tests run on, for processes that they start."""

from __future__ import annotations

from django.db import connections


def address() -> str:
    """The tests' own database as ``DATABASE_URL``."""
    told = connections["default"].settings_dict
    if told["ENGINE"].endswith("sqlite3"):
        return f"sqlite:///{told['NAME']}"
    options = "&".join(f"{k}={v}" for k, v in told["OPTIONS"].items() if isinstance(v, str))
    return f"postgres://{told['USER']}:{told['PASSWORD']}@{told['HOST']}:{told['PORT']}/{told['NAME']}?{options}"
