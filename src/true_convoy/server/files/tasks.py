"""Background work on files."""

from procrastinate.contrib.django import app

from .actions import examine
from .models import Upload


@app.task(name="look-into-upload")
def look_into_upload(upload: str) -> None:
    """Looks into an upload and tells how far it is in its job."""
    row = Upload.objects.select_related("job", "owner").filter(pk=upload).first()
    if row is not None and row.job is not None:
        examine(row, row.job)
