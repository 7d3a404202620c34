from django.apps import AppConfig


class SchoolConfig(AppConfig):
    name = "nettlecap.school"
    default_auto_field = "django.db.models.BigAutoField"
