"""Files that are sent and taken: their size said before they are read, their name when they go."""

import csv
import io
from collections.abc import Iterable

from django.http import HttpRequest, HttpResponse

from returnpath.cells import guarded
from returnpath.errors import BadInput


def sent_bytes(request: HttpRequest, what: str, most: int) -> bytes:
    """The file of a form, ``what`` in words (“a price list”); BadInput for none or too large a
    one."""
    upload = request.FILES.get("file")
    if upload is None:
        raise BadInput(f"Choose {what} first.")
    if (upload.size or 0) > most:
        size = f"{most / 1e6:g} MB" if most >= 1e6 else f"{most / 1e3:g} kB"
        raise BadInput(f"{what[:1].upper()}{what[1:]} is at most {size}.")
    return upload.read()


def sent_text(request: HttpRequest, what: str, most: int) -> str:
    """As ``sent_bytes``, read as UTF-8 with or without its mark."""
    return sent_bytes(request, what, most).decode("utf-8-sig", "replace")


def attached(body: str | bytes, kind: str, name: str) -> HttpResponse:
    """An answer that is kept as a file of that name."""
    is_text = not kind.startswith("image/")
    response = HttpResponse(body, content_type=f"{kind}; charset=utf-8" if is_text else kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def attached_csv(heading: Iterable[str], rows: Iterable[Iterable[object]], name: str):
    """Rows as a CSV file; no text in it is taken for a formula."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(heading)
    table.writerows([guarded(c) if isinstance(c, str) else c for c in row] for row in rows)
    return attached(out.getvalue(), "text/csv", name)
