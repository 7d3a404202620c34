from django.apps import AppConfig


class TrainingConfig(AppConfig):
    name = "nettlecap.training"
    default_auto_field = "django.db.models.BigAutoField"
