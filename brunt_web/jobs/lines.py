"""A sent file's lines, one by one, with progress by its bytes; never whole in memory."""

import io
from collections.abc import Iterator
from typing import IO, cast

from django.core.files.uploadedfile import UploadedFile

from brunt_core.printing.gcode import GcodeFacts, gcode_of, read_gcode
from brunt_web.interface.bounded import in_a_job, read_bounded
from brunt_web.jobs.progress import step

GCODE_AT_ONCE = 4_000_000
_LONGEST_LINE, _EVERY = 1_000_000, 2000


def gcode_facts(file: UploadedFile) -> GcodeFacts:
    """What a G-code file says: as a stream within a job, else in a bounded process.

    Raises :class:`InputError` for what is none.
    """
    if in_a_job():
        return read_gcode(text_lines(file))
    return read_bounded(gcode_of, file.read())


def text_lines(file: UploadedFile) -> Iterator[str]:
    """Its lines as UTF-8 text; what is no text is replaced, a line without end is cut."""
    raw = cast(IO[bytes], file.file)
    text = io.TextIOWrapper(raw, encoding="utf-8", errors="replace")
    read, size = 0, file.size or 0
    try:
        for i, line in enumerate(iter(lambda: text.readline(_LONGEST_LINE), "")):
            read += len(line)
            if i % _EVERY == 0:
                step(read, size, "MB")
            yield line
    finally:
        if not raw.closed:
            text.detach()
