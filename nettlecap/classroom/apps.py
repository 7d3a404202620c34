from django.apps import AppConfig


class ClassroomConfig(AppConfig):
    name = "nettlecap.classroom"
    default_auto_field = "django.db.models.BigAutoField"
