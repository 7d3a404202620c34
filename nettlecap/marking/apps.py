from django.apps import AppConfig


class MarkingConfig(AppConfig):
    name = "nettlecap.marking"
    default_auto_field = "django.db.models.BigAutoField"
