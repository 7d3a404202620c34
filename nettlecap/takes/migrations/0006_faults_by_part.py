"""Faults tell their part, by which what was agreed is known."""

from django.db import migrations


def fill(apps, schema_editor):  # type: ignore[no-untyped-def]
    """Tell the part of each fault of what was looked at before; faults and findings are in one order."""
    for analysis in apps.get_model("takes", "Analysis").objects.exclude(findings=None).iterator():
        found = analysis.findings.get("findings", ())
        if len(found) != len(analysis.faults) or not any(f.get("part") for f in found):
            continue
        analysis.faults = [
            {**fault, "part": f["part"]} if f.get("part") else fault
            for fault, f in zip(analysis.faults, found, strict=True)
        ]
        analysis.save(update_fields=["faults"])


class Migration(migrations.Migration):
    dependencies = [("takes", "0005_arrivals_and_leases")]

    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
