"""Static files are served under hashed names, so that browsers may cache them for good."""

from __future__ import annotations

from whitenoise.storage import CompressedManifestStaticFilesStorage


class HashedFiles(CompressedManifestStaticFilesStorage):  # type: ignore[misc]  # untyped
    """Hashed and compressed; the names inside our ES modules follow too."""

    support_js_module_import_aggregation = True
