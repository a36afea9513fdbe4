"""How styles, scripts and fonts are served: under names that change with what is in them."""

from __future__ import annotations

from whitenoise.storage import CompressedManifestStaticFilesStorage


class HashedFiles(CompressedManifestStaticFilesStorage):  # type: ignore[misc]  # untyped
    """Hashed and compressed; the names inside our ES modules follow too."""

    support_js_module_import_aggregation = True
