"""Lines of the log: one JSON object a line, so that they can be searched by what is in them.

``LOG_FORMAT=plain`` says only what goes wrong, in words, for somebody who reads along.
"""

from __future__ import annotations

from typing import Any

import structlog

JSON, PLAIN = "json", "plain"
REQUESTS, JOBS = "nettlecap.requests", "nettlecap.jobs"


def configured(kind: str) -> dict[str, Any]:
    """Logging as Django's settings want it; ``kind`` is ``json`` or ``plain``."""
    before: list[Any] = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.stdlib.add_logger_name,
        structlog.processors.TimeStamper(fmt="iso", utc=True, key="at"),
    ]
    structlog.configure(
        processors=[*before, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
    )
    as_json = {
        "()": structlog.stdlib.ProcessorFormatter,
        "processors": [
            structlog.stdlib.ProcessorFormatter.remove_processors_meta,
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(ensure_ascii=False, sort_keys=True, default=str),
        ],
        "foreign_pre_chain": before,
    }
    plain = {"format": "%(message)s"}
    each = "INFO" if kind == JSON else "WARNING"
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {"told": as_json if kind == JSON else plain},
        "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "told"}},
        "root": {"handlers": ["console"], "level": "WARNING"},
        "loggers": {"nettlecap": {"level": "INFO"}, REQUESTS: {"level": each}, JOBS: {"level": each}},
    }
