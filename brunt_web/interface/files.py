"""The files that ship, under names that carry a hash of what is in them."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class HashedFiles(CompressedManifestStaticFilesStorage):
    """Hashed and compressed; the modules' imports of one another are rewritten as well."""

    support_js_module_import_aggregation = True
