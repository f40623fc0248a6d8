"""Revisions are packed; the board's facts stand with the job; jobs can lie in the bin."""

import django.db.models.deletion
from django.db import migrations, models


def pack(apps, schema_editor):
    """Packs the documents there are, in the order in which they were saved."""
    from velamen.core.job.reading import stored_job
    from velamen.web.jobs.packing import difference, whole

    Job, Revision = apps.get_model("jobs", "Job"), apps.get_model("jobs", "Revision")
    for job in Job.objects.all():
        base, data_of_base = None, b""
        for revision in Revision.objects.filter(job=job).order_by("number"):
            data = revision.document.encode()
            less = difference(data, data_of_base, len(base.packed)) if base else None
            revision.packed, revision.base = (whole(data), None) if less is None else (less, base)
            revision.save(update_fields=["packed", "base"])
            if less is None:
                base, data_of_base = revision, data
        try:
            document = stored_job(job.head.document.encode())
        except Exception:
            continue  # told when it is opened
        job.base, job.pieces = document.library.bases[document.brief.base].name, len(document.pieces)
        job.picture = document.backdrop.picture if document.backdrop and not document.pieces else ""
        job.save(update_fields=["base", "pieces", "picture"])


def unpack(apps, schema_editor):
    """Writes the documents out again."""
    from velamen.web.jobs.packing import unpacked

    for revision in apps.get_model("jobs", "Revision").objects.select_related("base"):
        base = unpacked(bytes(revision.base.packed)) if revision.base else None
        revision.document = unpacked(bytes(revision.packed), base).decode()
        revision.save(update_fields=["document"])


class Migration(migrations.Migration):
    dependencies = [("jobs", "0002_source")]

    operations = [
        migrations.AddField("job", "base", models.CharField(default="", max_length=120)),
        migrations.AddField("job", "pieces", models.PositiveIntegerField(default=0)),
        migrations.AddField("job", "picture", models.CharField(default="", max_length=32)),
        migrations.AddField("job", "thumb", models.BinaryField(default=b"")),
        migrations.AddField("job", "thumb_of", models.CharField(default="", max_length=32)),
        migrations.AddField("job", "binned", models.DateTimeField(db_index=True, default=None, null=True)),
        migrations.AddField("revision", "packed", models.BinaryField(default=b"")),
        migrations.AddField(
            "revision",
            "base",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="jobs.revision"
            ),
        ),
        migrations.AlterField("revision", "document", models.TextField(default="")),
        migrations.RunPython(pack, unpack),
        migrations.RemoveField("revision", "document"),
    ]
