"""Briefs can be unpublished, and their points move into the brief file."""

from django.db import migrations, models


def into_the_file(apps, schema_editor):
    Brief = apps.get_model("classroom", "Brief")
    for brief in Brief.objects.all():
        marking = {"points": brief.points, "weights": {}}
        brief.parameters = {**brief.parameters, "marking": marking}
        brief.published_at = brief.created_at
        brief.save(update_fields=["parameters", "published_at"])


def out_of_the_file(apps, schema_editor):
    Brief = apps.get_model("classroom", "Brief")
    known = {"schema", "exercise", "fps", "exposure", "frames", "loop", "canvas", "strictness", "ground_y", "bounce"}
    for brief in Brief.objects.all():
        brief.points = brief.parameters.get("marking", {}).get("points", {})
        brief.parameters = {k: v for k, v in brief.parameters.items() if k in known}
        brief.save(update_fields=["parameters", "points"])


class Migration(migrations.Migration):
    dependencies = [("classroom", "0001_initial")]

    operations = [
        migrations.AddField("brief", "published_at", models.DateTimeField(blank=True, null=True)),
        migrations.RunPython(into_the_file, out_of_the_file),
        migrations.RemoveField("brief", "points"),
    ]
