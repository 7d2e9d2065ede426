"""Zips whose bytes say nothing of when they were written: the same content gives the same file."""

from __future__ import annotations

import zipfile
from typing import Any

#: The earliest moment that the format can say.
_MOMENT = (1980, 1, 1, 0, 0, 0)


class Zip(zipfile.ZipFile):
    """A zip of stored (not compressed) files."""

    def writestr(
        self,
        zinfo_or_arcname: str | zipfile.ZipInfo,
        data: Any,
        compress_type: int | None = None,
        compresslevel: int | None = None,
    ) -> None:
        """As in the standard library, but for the moment."""
        name = zinfo_or_arcname
        entry = zipfile.ZipInfo(name if isinstance(name, str) else name.filename, _MOMENT)
        entry.external_attr = 0o644 << 16
        super().writestr(entry, data, compress_type, compresslevel)
