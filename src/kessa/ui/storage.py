"""Static files under names that carry their content, compressed beforehand."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class HashedStatic(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Also rewrites the imports of ES modules, so that a stored page keeps its own player."""

    support_js_module_import_aggregation = True
    max_post_process_passes = 10
