from django.apps import AppConfig


class TakesConfig(AppConfig):
    name = "nettlecap.takes"
    default_auto_field = "django.db.models.BigAutoField"
