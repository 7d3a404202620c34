"""Static files with names that carry their content's hash, ES modules included."""

from __future__ import annotations

from typing import ClassVar

from django.contrib.staticfiles.apps import StaticFilesConfig
from whitenoise.storage import CompressedManifestStaticFilesStorage


class StaticFiles(StaticFilesConfig):
    """Leaves out files of django-htmx that nothing here uses and whose imports cannot be rewritten."""

    ignore_patterns: ClassVar[list[str]] = [  # type: ignore[misc]  # as the framework has it
        *StaticFilesConfig.ignore_patterns,
        "django_htmx/*",
        "manifest.json",
    ]


class ModuleStorage(CompressedManifestStaticFilesStorage):
    """Also rewrites the imports between our own modules to their hashed names."""

    support_js_module_import_aggregation = True
