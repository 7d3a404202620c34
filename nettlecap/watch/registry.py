"""Where this process's numbers for a scraper are gathered."""

from __future__ import annotations

from prometheus_client import CollectorRegistry

REGISTRY = CollectorRegistry()
