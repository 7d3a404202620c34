from django.apps import AppConfig


class Watch(AppConfig):
    name = "nettlecap.watch"
    label = "watch"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from nettlecap.watch import checks  # noqa: F401 (which makes itself known)
