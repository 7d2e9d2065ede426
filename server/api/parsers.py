"""How request bodies are read: JSON everywhere, files on the views that take one."""

from __future__ import annotations

from typing import Any

from rest_framework.exceptions import ParseError
from rest_framework.parsers import BaseParser, JSONParser, MultiPartParser


class PlainJSON(JSONParser):
    """JSON, refused where it is made to do harm: nested beyond reason, numbers without end."""

    def parse(self, stream: Any, media_type: Any = None, parser_context: Any = None) -> Any:
        try:
            return super().parse(stream, media_type, parser_context)
        except (RecursionError, ValueError, OverflowError) as error:
            raise ParseError("The request is no JSON that can be read.") from error


class Part(BaseParser):
    """The bytes of a part of a file, as they are."""

    media_type = "application/octet-stream"

    def parse(
        self, stream: Any, media_type: Any = None, parser_context: Any = None
    ) -> dict[str, bytes]:
        # How many there may be is checked before (`config.limits`).
        return {"bytes": stream.read()}


class Files(MultiPartParser):
    """A form with a file."""
